/** What a folder holds of a delivery, by its manifest and those of its pieces: processes that each render some of the frames. */
import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { canonicalJson } from '@/core/recipe';
import { framesText, MANIFEST_NAME, type Manifest, type ManifestFile, verifyFiles } from '@/core/runs';
import { fileHash } from '@/node/folder';
import { UsageError } from './args';
import { manifestIn } from './verify';

const PIECE = /^manifest\.[0-9x,-]+\.json$/;

/** The manifest of a piece: beside those of others, so that none writes into another's. */
export const pieceName = (frames: readonly number[]): string => `manifest.${framesText(frames)}.json`;

const piecesIn = async (dir: string): Promise<string[]> =>
  (await readdir(dir).catch(() => [])).filter((name) => PIECE.test(name)).sort();

/** What was delivered already, and the manifests of pieces that told of it. */
export interface There {
  files: Map<string, ManifestFile>;
  pieces: string[];
}

/**
 * What was delivered already of the same: its files that are as they were, by name, of those that `isLookedAt`; `wanted` is told when
 * they were rendered. Throws where the folder holds something else.
 */
export async function thereAlready(
  dir: string,
  wanted: Manifest,
  isLookedAt: (file: ManifestFile) => boolean,
): Promise<There> {
  const there: There = { files: new Map(), pieces: await piecesIn(dir) };
  for (const name of [MANIFEST_NAME, ...there.pieces]) {
    const known = await manifestIn(dir, name);
    if (!known) continue;
    const same = (['shot', 'camera', 'scene', 'recipe', 'outputs'] as const).every(
      (key) => canonicalJson(known[key]) === canonicalJson(wanted[key]),
    );
    if (!same) throw new UsageError(`${dir}: it holds what was delivered of something else; choose another folder`);
    const files = known.files.filter(isLookedAt);
    const faults = new Set((await verifyFiles({ files }, (file) => fileHash(join(dir, file)))).map((f) => f.name));
    const again = (r: Manifest['rendered'][number]) =>
      known.rendered.some((k) => k.frame === r.frame && canonicalJson(k.variant) === canonicalJson(r.variant));
    wanted.rendered = [...wanted.rendered.filter((r) => !again(r)), ...known.rendered];
    for (const f of files) if (!faults.has(f.name)) there.files.set(f.name, f);
  }
  return there;
}

/** Takes manifests of pieces away, once another has all that they had: those that were written meanwhile stay. */
export async function endPieces(dir: string, pieces: readonly string[]): Promise<void> {
  for (const name of pieces) await rm(join(dir, name), { force: true });
}
