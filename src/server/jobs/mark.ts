import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';

/** Files that decide which bits a picture has. */
const BUILT = [
  'build/thread.mjs',
  'build/packing.mjs',
  'build/worker.mjs',
  'public/wasm/kernel.wasm',
  'public/wasm/denoise.wasm',
];

/** What a worker was built from: equal marks render equal bits. */
export function buildMark(root: URL): string {
  const digest = createHash('sha256');
  for (const file of BUILT) digest.update(readFileSync(new URL(file, root)));
  return digest.digest('hex');
}
