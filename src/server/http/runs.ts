import { readFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { isAbsolute, join, normalize } from 'node:path';
import type { Again, NewRun, Room, Run } from '@/contract/run';
import type { Moods } from '@/core/moods';
import { canonicalJson, parseRecipe } from '@/core/recipe';
import {
  type Checked,
  FramesError,
  filesOfRun as filesByFrame,
  filmsBytes,
  framesText,
  inOrder,
  leftovers,
  MANIFEST_NAME,
  manifestSchema,
  parseFrames,
  proofRecipe,
  runPictures,
  takenPictures,
} from '@/core/runs';
import { fileHash, folderWords, freeBytes, namesIn } from '@/node/folder';
import { sha256 } from '@/node/hash';
import { missingBlobs } from '../db/blobs';
import { announce, type Sql } from '../db/connection';
import { isId } from '../db/ids';
import { filesOfRun, placeAgain } from '../db/run-files';
import { addRun, againFrames, framesText as allFrames, nextRun, type RunRow, runById, runByKey } from '../db/runs';
import { draftOf, freezeDraft, revisionById, type ShotRow } from '../db/shots';
import { ofRun } from '../films/manifest';
import { sendingQueue, URGENT } from '../jobs/queue';
import { Refusal } from './respond';
import { checkBudget, leftForFilms } from './sent-trial';

/** The run of a route, or a 404. */
export async function findRun(sql: Sql, id: string): Promise<RunRow> {
  const run = isId(id) ? await runById(sql, id) : null;
  if (!run) throw new Refusal(404, 'no-run', `there is no run ${id.slice(0, 40)}`, 'id');
  return run;
}

/** Where deliveries go that say nothing else. */
const deliveries = () => process.env.LANTERN_DELIVERED ?? join(homedir(), 'lantern');

/** The folder of a run: as it was asked for, or one of its own. */
const folderOf = (asked: string, shot: string, number: number) =>
  asked === ''
    ? join(deliveries(), `${shot.replace(/[^A-Za-z0-9._-]+/g, '-')}-run${String(number).padStart(2, '0')}`)
    : normalize(asked);

/** What a run of the draft as it is would be. Throws a refusal for frames that cannot be read. */
async function drafted(
  sql: Sql,
  shot: ShotRow,
  asked: Pick<NewRun, 'frames' | 'camera' | 'comp'>,
): Promise<Checked & { moods: Moods }> {
  const draft = await draftOf(sql, shot.id);
  const revision = draft && (await revisionById(sql, draft.revision));
  if (!draft || !revision) throw new Refusal(404, 'no-shot', 'the shot has no scene', 'id');
  const document = draft.scene ?? revision.document;
  try {
    const frames = parseFrames(asked.frames, document.frames);
    const names = {
      shot: shot.name,
      recipe: draft.recipe.name,
      camera: asked.camera,
      frames: { first: frames[0], last: frames[frames.length - 1] },
      trial: await nextRun(sql, shot.id),
      date: new Date(),
    };
    const { outputs, moods, stack } = draft;
    const comp = asked.comp && { stack, as: asked.comp };
    return { document, recipe: parseRecipe(draft.recipe), outputs, moods, comp, camera: asked.camera, frames, names };
  } catch (error) {
    throw error instanceof FramesError ? new Refusal(400, 'frames', error.message, 'frames') : error;
  }
}

/** Names of all files of a run. */
function allNames(of: Checked): string[] {
  const filesAt = filesByFrame(of, of.names);
  return of.frames.flatMap((f) => filesAt(f).files.flatMap((p) => p.map(({ name }) => name)));
}

/** Whether a folder holds what another run delivered. */
async function isOfAnother(folder: string, shot: string, number: number): Promise<boolean> {
  const text = await readFile(join(folder, MANIFEST_NAME), 'utf8').catch(() => null);
  if (text === null) return false;
  try {
    const manifest = manifestSchema.parse(JSON.parse(text));
    return manifest.shot !== shot || manifest.run !== number;
  } catch {
    return true;
  }
}

/** What the server's machine has to say of a run before it starts. */
export async function roomFor(
  sql: Sql,
  shot: ShotRow,
  asked: Pick<NewRun, 'frames' | 'camera' | 'folder' | 'comp'>,
): Promise<Room> {
  const of = await drafted(sql, shot, asked);
  const next = of.names.trial;
  const folder = folderOf(asked.folder, shot.name, next);
  const { contents, geometry } = of.document;
  const gone = await missingBlobs(sql, [
    ...new Set([...contents.map((c) => c.hash), ...(geometry.hash ? [geometry.hash] : [])]),
  ]);
  const missing = [
    ...contents.filter((c) => gone.includes(c.hash)).map((c) => c.name),
    ...(gone.includes(geometry.hash) ? ['geometry'] : []),
  ];
  const storeBytes = await leftForFilms(sql);
  const room: Room = { folder, taken: [], freeBytes: null, storeBytes, missing, fault: null, next };
  if (!isAbsolute(folder)) return { ...room, fault: 'name the folder from the root on' };
  try {
    room.taken = await namesIn(folder, allNames(of));
    room.freeBytes = await freeBytes(folder);
    if (await isOfAnother(folder, shot.name, next))
      room.fault = `${folder} holds another run: choose a folder of its own`;
  } catch (error) {
    room.fault = folderWords(error, folder);
  }
  return room;
}

/** A frame that somebody waits for. */
const PROOF_PRIORITY = 3;

/** Starts a run of the draft as it is: all of it is frozen. Throws a refusal where it cannot be delivered. */
export async function startRun(sql: Sql, shot: ShotRow, asked: NewRun): Promise<string> {
  // Sent again after an answer that was lost, its own files would be in the way.
  const known = asked.key && (await runByKey(sql, asked.key));
  if (known) return known;
  const wanted = await drafted(sql, shot, asked);
  const of = asked.proof ? { ...wanted, recipe: proofRecipe(wanted.recipe) } : wanted;
  const fault = leftovers(of).find((f) => f.stops);
  if (fault) throw new Refusal(400, fault.code, fault.words, 'outputs');
  const room = await roomFor(sql, shot, asked);
  if (room.fault) throw new Refusal(400, 'folder', room.fault, 'folder');
  if (room.missing.length > 0)
    throw new Refusal(400, 'content', `${room.missing.length} contents of the scene are not there`, 'scene');
  if (room.taken.length > 0 && !asked.overwrites)
    throw new Refusal(409, 'taken', `${room.taken[0]} is in the folder already`, 'folder', {
      taken: room.taken.length,
    });
  const pictures = runPictures(of).map(({ recipe, outputs }) => ({
    recipe: parseRecipe(recipe),
    recipeHash: sha256(canonicalJson(parseRecipe(recipe))),
    outputs: { ...of.outputs, list: outputs },
  }));
  // Frames that are too large for memory go in bands.
  await checkBudget(sql, filmsBytes(of, of.frames.length, asked.keepsFilms || asked.proof));
  const revision = await freezeDraft(sql, shot.id, (document) => sha256(canonicalJson(document)));
  const id = await addRun(
    sql,
    {
      shot: shot.id,
      revision: revision.id,
      title: asked.title || of.recipe.name,
      camera: asked.camera,
      frames: framesText(of.frames),
      recipe: of.recipe,
      outputs: of.outputs,
      folder: (number) => folderOf(asked.folder, shot.name, number),
      overwrites: asked.overwrites,
      keepsFilms: asked.keepsFilms || asked.proof,
      comp: of.comp && { ...of.comp, moods: of.moods },
      taken: [...new Set(takenPictures(of).values())],
      priority: asked.proof ? PROOF_PRIORITY : asked.priority,
      wantedAt: asked.wantedAt,
      key: asked.key,
      pictures,
      order: inOrder(of.frames, asked.order),
    },
    (await sendingQueue(sql)).addFrames,
  );
  await announce(sql, { type: 'run', id, shot: shot.id, frames: true });
  return id;
}

/** A run with all its frames, as JSON; its frames as rows of values. */
export async function wholeRun(sql: Sql, run: RunRow): Promise<string> {
  const revision = await revisionById(sql, run.revision);
  const pictures = revision ? runPictures(ofRun(run, revision.document)) : [];
  const { stack: _, moods: __, ...line } = run;
  const told: Omit<Run, 'rows'> = { ...line, variants: pictures.map((p) => p.variant) };
  return `{"run":${JSON.stringify(told)},"rows":${await allFrames(sql, run.id)}}`;
}

/** Frames some of whose files are not in the folder as they were put there. */
async function framesMissing(sql: Sql, run: RunRow): Promise<string[]> {
  const files = (await filesOfRun(sql, run.id)).filter((f) => f.placed);
  const lost = new Set<string>();
  for (const f of files) {
    const there = await fileHash(join(run.folder, f.name)).catch(() => null);
    if (there?.sha256 !== f.sha256) lost.add(f.trial);
  }
  return [...lost];
}

/** Has frames of a run rendered again; how many. */
export async function againOf(sql: Sql, run: RunRow, { which, urgent }: Again): Promise<number> {
  const queue = await sendingQueue(sql);
  const chosen = which === 'missing' ? await framesMissing(sql, run) : which;
  if (Array.isArray(chosen) && chosen.length === 0) return 0;
  await placeAgain(sql, run.id, false);
  const count = await againFrames(sql, run.id, chosen, urgent ? URGENT : null, queue.addFrames, queue.takeBack);
  await announce(sql, { type: 'run', id: run.id, shot: run.shot, frames: true });
  return count;
}
