import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import { DenoiseError, denoisedLayers, type HotLight } from '@/core/denoise';
import { type Attribute, layersOf, withLayers, writeExr } from '@/core/exr';
import { type FilmLayers, LAYER } from '@/core/film';
import { type Noise, noiseOf, type Rgb } from '@/core/stats';
import { nodeDeflate } from '@/node/zlib';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { denoiseFilm } from '@/render/pool/denoiser';
import { one, parseArguments, print, UsageError, wholeNumber } from './args';
import type { Assets } from './assets';
import { readParts, withExr, writeWhole } from './exr-files';
import { progressTeller } from './progress';

/** What denoising did to a film. */
export interface DenoiseFigures {
  seconds: number;
  /** Percent. */
  strength: number;
  parts: number;
  noise: Noise;
  /** Noise that is left, told by the denoised halves; what filtering smoothed away is not in it. */
  residual: Noise;
  hot: Record<string, HotLight>;
}

interface Denoised {
  layers: FilmLayers;
  figures: DenoiseFigures;
  /** What its file says of it. */
  attributes: Record<string, Attribute>;
}

/** A film denoised at a strength in percent, and what that did. Throws `DenoiseError` where it has no halves. */
export async function denoiseLayers(
  film: FilmLayers,
  { assets, threads, scale, strength }: { assets: Assets; threads: number; scale: number; strength: number },
): Promise<Denoised> {
  const tell = progressTeller(process.stderr, process.stderr.isTTY === true);
  const started = performance.now();
  const { prepared, hot, seconds } = await denoiseFilm(film, {
    module: await compileWasm(assets.filter),
    spawn: spawnNode(assets.thread),
    threads,
    scale,
    onSquare: (n, of) => tell({ fraction: n / of, elapsedMs: performance.now() - started }),
  });
  if (process.stderr.isTTY) process.stderr.write('\n');
  const layers = denoisedLayers(film, prepared, strength / 100);
  const noise = (of: FilmLayers) => {
    const [a, b] = (['a', 'b'] as const).map((h) => of.layers.get(LAYER.half(h))!.planes as unknown as Rgb);
    return noiseOf(a, b, film.width, film.height, scale);
  };
  return {
    layers,
    figures: {
      seconds,
      strength,
      parts: prepared.leads.length + prepared.followers.length,
      noise: noise(film),
      residual: noise(layers),
      hot,
    },
    attributes: { 'lantern:denoised': { type: 'string', value: `${strength} % by lantern ${assets.version}` } },
  };
}

function inWords(out: string, { seconds, parts, noise, residual, hot }: DenoiseFigures): string {
  const cooled = Object.entries(hot).filter(([, h]) => h.pixels > 0);
  const lines = [
    `${out}: ${parts} parts in ${seconds.toFixed(1)} s`,
    `  noise ${noise.rms.toFixed(2)} %, residual ${residual.rms.toFixed(2)} %`,
    ...cooled.map(
      ([name, h]) =>
        `  ${name}: ${h.pixels} hot pixels, ${(h.share * 100).toFixed(2)} % of its light spread about them`,
    ),
  ];
  return `${lines.join('\n')}\n`;
}

/** `lantern denoise`: takes the noise off a film's parts, so that they still sum to its beauty. Returns the exit code. */
export async function denoise(argv: string[], assets: Assets): Promise<number> {
  const args = parseArguments(argv, { out: 'value', strength: 'value', threads: 'value', json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('denoise needs one .exr file');
  const [path] = args.positional;
  const out = one(args, 'out');
  if (out === undefined) throw new UsageError('denoise needs --out file.exr');
  if (extname(out) !== '.exr') throw new UsageError(`--out ${out}: must end in .exr`);
  const strength = wholeNumber(args, 'strength', 0, 100) ?? 100;
  const threads = wholeNumber(args, 'threads', 1, 256) ?? availableParallelism();
  const parts = await withExr(path, readParts);
  const film = layersOf(parts);
  const written = parts[0].attributes['lantern:exposure'];
  const scale = written?.type === 'double' ? written.value : 1;
  const done = await denoiseLayers(film, { assets, threads, scale, strength }).catch((error) => {
    throw error instanceof DenoiseError ? new UsageError(`${path}: ${error.message}`) : error;
  });
  const { bytes } = await writeExr(
    withLayers(parts, done.layers).map((part) => ({ ...part, attributes: { ...part.attributes, ...done.attributes } })),
    nodeDeflate,
  );
  await writeWhole(out, bytes);
  print(one(args, 'json') === '-', { film: out, ...done.figures }, inWords(out, done.figures));
  return 0;
}
