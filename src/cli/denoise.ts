import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import { DenoiseError, denoisedLayers } from '@/core/denoise';
import { layersOf, withLayers, writeExr } from '@/core/exr';
import { nodeDeflate } from '@/node/zlib';
import { compileKernel, spawnNode } from '@/render/node/threads';
import { denoiseFilm } from '@/render/pool/denoiser';
import { one, parseArguments, print, UsageError, wholeNumber } from './args';
import { readParts, withExr, writeWhole } from './exr-files';
import { progressTeller } from './progress';
import type { Assets } from './render';

/** `lantern denoise`: takes the noise off a film's parts, so that they still sum to its beauty. Returns the exit code. */
export async function denoise(argv: string[], assets: Assets): Promise<number> {
  const args = parseArguments(argv, { out: 'value', strength: 'value', threads: 'value', json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('denoise needs one .exr file');
  const [path] = args.positional;
  const out = one(args, 'out');
  if (out === undefined) throw new UsageError('denoise needs --out file.exr');
  if (extname(out) !== '.exr') throw new UsageError(`--out ${out}: must end in .exr`);
  const percent = wholeNumber(args, 'strength', 0, 100) ?? 100;
  const threads = wholeNumber(args, 'threads', 1, 256) ?? availableParallelism();
  const parts = await withExr(path, readParts);
  const film = layersOf(parts);
  const written = parts[0].attributes['lantern:exposure'];
  const module = await compileKernel(assets.filter);
  const tell = progressTeller(process.stderr, process.stderr.isTTY === true);
  const started = performance.now();
  const done = await denoiseFilm(film, {
    module,
    spawn: spawnNode(assets.thread),
    threads,
    scale: written?.type === 'double' ? written.value : 1,
    onSquare: (n, of) => tell({ fraction: n / of, elapsedMs: performance.now() - started }),
  }).catch((error) => {
    throw error instanceof DenoiseError ? new UsageError(`${path}: ${error.message}`) : error;
  });
  if (process.stderr.isTTY) process.stderr.write('\n');
  const { bytes } = await writeExr(
    withLayers(parts, denoisedLayers(film, done.prepared, percent / 100)).map((part) => ({
      ...part,
      attributes: {
        ...part.attributes,
        'lantern:denoised': { type: 'string' as const, value: `${percent} % by lantern ${assets.version}` },
      },
    })),
    nodeDeflate,
  );
  await writeWhole(out, bytes);
  const count = done.prepared.leads.length + done.prepared.followers.length;
  const hot = Object.entries(done.hot)
    .filter(([, h]) => h.pixels > 0)
    .map(
      ([name, h]) =>
        `  ${name}: ${h.pixels} hot pixels, ${(h.share * 100).toFixed(2)} % of its light spread about them\n`,
    );
  print(
    one(args, 'json') === '-',
    { film: out, seconds: done.seconds, strength: percent, parts: count, hot: done.hot },
    `${out}: ${count} parts in ${done.seconds.toFixed(1)} s\n${hot.join('')}`,
  );
  return 0;
}
