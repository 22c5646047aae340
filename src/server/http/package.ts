import { NO_STACK } from '@/core/comp';
import { CONTENT_FOLDER, contentHashes, parsePackage, SHOT_FILE, type ShotPackage } from '@/core/package';
import { canonicalJson } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import { type PackageFile, readTar, tarOf } from '@/node/package';
import { blobBytes, missingBlobs } from '../db/blobs';
import type { Sql } from '../db/connection';
import { addShot, draftOf, revisionById, type ShotRow, saveDraft } from '../db/shots';
import { putStream, readChunks, TooLarge, WrongDigest } from '../storage/blobs';
import { Refusal } from './respond';

const MOST_SHOT_BYTES = 64e6;
const MOST_CONTENT_BYTES = 500e6;
const MOST_FILES = 20000;
/** Names that are tried where a shot's own is taken. */
const MOST_NAMES = 100;

/** A shot with all of its content as one .tar: scene, recipe, outputs, moods and stack of its draft. */
export async function packageOf(sql: Sql, shot: ShotRow, program: string): Promise<AsyncGenerator<Uint8Array>> {
  const draft = await draftOf(sql, shot.id);
  const revision = draft && (await revisionById(sql, draft.revision));
  if (!draft || !revision) throw new Refusal(404, 'no-shot', 'the shot has no scene', 'id');
  const { recipe, outputs, moods } = draft;
  const drafted = draft.scene ?? revision.document;
  // Documents of old name their geometry in the revision alone.
  const scene = { ...drafted, geometry: { ...drafted.geometry, hash: drafted.geometry.hash || revision.geometry } };
  const whole: ShotPackage = {
    ...{ schema: 1, program, name: shot.name, scene, recipe, outputs, moods },
    stack: draft.stack ?? NO_STACK,
  };
  const hashes = contentHashes(scene).sort();
  const missing = await missingBlobs(sql, hashes);
  if (missing.length > 0)
    throw new Refusal(409, 'no-content', `content ${missing[0].slice(0, 12)} of the scene is not there`, 'scene');
  const text = Buffer.from(`${JSON.stringify(JSON.parse(canonicalJson(whole)), null, 1)}\n`);
  const files: PackageFile[] = [{ name: SHOT_FILE, bytes: text.length, pieces: () => [text] }];
  for (const hash of hashes) {
    const bytes = (await blobBytes(sql, hash))!;
    files.push({ name: CONTENT_FOLDER + hash, bytes, pieces: () => readChunks(sql, hash, bytes) });
  }
  return tarOf(files);
}

async function textOf(pieces: AsyncIterable<Uint8Array>): Promise<string> {
  const parts: Uint8Array[] = [];
  for await (const piece of pieces) parts.push(piece.slice());
  return Buffer.concat(parts).toString('utf8');
}

/** Takes in a package as it comes: a new shot under its name, or one like it. Throws refusals that say what is wrong with it. */
export async function takePackage(sql: Sql, stream: AsyncIterable<Uint8Array>): Promise<{ id: string; name: string }> {
  const bad = (words: string) => new Refusal(400, 'package', `no package of a shot: ${words}`, '');
  let shot: ShotPackage | null = null;
  let count = 0;
  try {
    await readTar(stream, async (name, bytes, pieces) => {
      if (++count > MOST_FILES) throw bad(`it has more than ${MOST_FILES} files`);
      const hash = name.startsWith(CONTENT_FOLDER) ? name.slice(CONTENT_FOLDER.length) : null;
      if (name === SHOT_FILE) {
        if (bytes > MOST_SHOT_BYTES) throw bad(`${SHOT_FILE} has more than ${MOST_SHOT_BYTES / 1e6} MB`);
        shot = parsePackage(JSON.parse(await textOf(pieces)));
      } else if (hash !== null && /^[0-9a-f]{64}$/.test(hash)) {
        await putContent(sql, hash, pieces);
      } else throw bad(`${name.slice(0, 80)} is none of its files`);
    });
  } catch (error) {
    if (error instanceof Refusal) throw error;
    if (error instanceof WrongDigest) throw bad('a file of its content is not what its name says');
    if (error instanceof TooLarge) throw bad(`a file of its content has more than ${MOST_CONTENT_BYTES / 1e6} MB`);
    if (error instanceof SyntaxError) throw bad(`${SHOT_FILE} is no JSON`);
    throw bad((error as Error).message.split('\n')[0]);
  }
  if (!shot) throw bad(`${SHOT_FILE} is not in it`);
  return addPacked(sql, shot);
}

/** Content that is there already is read past, and must be what it says all the same. */
async function putContent(sql: Sql, hash: string, pieces: AsyncIterable<Uint8Array>): Promise<void> {
  const put = await putStream(sql, pieces, MOST_CONTENT_BYTES);
  if (put.hash !== hash) throw new WrongDigest('the content is not what its name says');
}

async function addPacked(sql: Sql, shot: ShotPackage): Promise<{ id: string; name: string }> {
  const missing = await missingBlobs(sql, contentHashes(shot.scene));
  if (missing.length > 0)
    throw new Refusal(400, 'package', `content ${missing[0].slice(0, 12)} is not in the package`, 'scene');
  for (let n = 1; n <= MOST_NAMES; n++) {
    const name = n === 1 ? shot.name : `${shot.name} ${n}`;
    const document = { ...shot.scene, name };
    const scene = { document, geometry: document.geometry.hash, hash: sha256(canonicalJson(document)) };
    const id = await addShot(sql, name, scene, shot.recipe);
    if (!id) continue;
    const { version } = (await draftOf(sql, id))!;
    const { outputs, moods, stack } = shot;
    await saveDraft(sql, id, version, { outputs, moods, stack });
    return { id, name };
  }
  throw new Refusal(409, 'name-taken', `there are ${MOST_NAMES} shots named like ${shot.name}`, 'name');
}
