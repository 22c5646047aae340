import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import { blendLayer, DenoiseError, type HotLight, type JoinedFigures, NeighbourError } from '@/core/denoise';
import { type Attribute, layersOf, withLayers, writeExr } from '@/core/exr';
import { type FilmLayers, noiseOfLayers } from '@/core/film';
import type { Noise } from '@/core/stats';
import { nodeDeflate } from '@/node/zlib';
import { compileWasm, spawnNode } from '@/render/node/threads';
import { type DenoisedFrame, denoiseFrame, type Neighbour } from '@/render/pool/denoise-frame';
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
  /** How it was joined with the frames about it; null where none was given. */
  joined: (JoinedFigures & { frames: number }) | null;
}

interface Denoised {
  layers: FilmLayers;
  figures: DenoiseFigures;
  /** What its file says of it. */
  attributes: Record<string, Attribute>;
}

const PHASES = ['rendered', 'alone', 'joined'] as const;

interface DenoiseHow {
  assets: Assets;
  threads: number;
  scale: number;
  strength: number;
  neighbours?: readonly Neighbour[];
}

/**
 * A film denoised at a strength in percent, joined with the frames about it where they are given, and what that did. Throws
 * `DenoiseError` where it has no halves, `NeighbourError` where frames cannot be joined.
 */
export async function denoiseLayers(
  film: FilmLayers,
  { assets, threads, scale, strength, neighbours = [] }: DenoiseHow,
): Promise<Denoised> {
  const module = await compileWasm(assets.filter);
  const tell = progressTeller(process.stderr, process.stderr.isTTY === true);
  const started = performance.now();
  const made = await denoiseFrame(film, neighbours, {
    module,
    spawn: spawnNode(assets.thread),
    threads,
    scale,
    display: scale,
    onProgress: (fraction) => tell({ fraction, elapsedMs: performance.now() - started }),
  });
  if (process.stderr.isTTY) process.stderr.write('\n');
  const { parts, hot, joined, seconds } = made;
  const layers = blended(film, made, strength / 100);
  return {
    layers,
    figures: {
      seconds,
      strength,
      parts,
      noise: noiseOfLayers(film, scale),
      residual: noiseOfLayers(layers, scale),
      hot,
      joined: joined && { ...joined, frames: neighbours.length },
    },
    attributes: { 'lantern:denoised': { type: 'string', value: `${strength} % by lantern ${assets.version}` } },
  };
}

function blended(film: FilmLayers, { film: made, names }: DenoisedFrame, all: number): FilmLayers {
  if (all === 0) return film;
  const layers = new Map(film.layers);
  for (const n of names) layers.set(n, blendLayer(n, names, film, made, { all, groups: {} }));
  return { ...film, layers };
}

function inWords(out: string, { seconds, parts, noise, residual, hot, joined }: DenoiseFigures): string {
  const cooled = Object.entries(hot).filter(([, h]) => h.pixels > 0);
  const lines = [
    `${out}: ${parts} parts in ${seconds.toFixed(1)} s`,
    `  noise ${noise.rms.toFixed(2)} %, residual ${residual.rms.toFixed(2)} %`,
    ...(joined
      ? [
          `  joined with ${joined.frames} ${joined.frames === 1 ? 'frame' : 'frames'}, ${Math.round(joined.share * 100)} % of the picture theirs; flicker ${PHASES.map((p) => `${joined.flicker[p]?.toFixed(2) ?? '–'} % ${p}`).join(', ')}`,
        ]
      : []),
    ...cooled.map(
      ([name, h]) =>
        `  ${name}: ${h.pixels} hot pixels, ${(h.share * 100).toFixed(2)} % of its light spread about them`,
    ),
  ];
  return `${lines.join('\n')}\n`;
}

/** `lantern denoise`: takes the noise off a film's parts, so that they still sum to its beauty. Returns the exit code. */
export async function denoise(argv: string[], assets: Assets): Promise<number> {
  const args = parseArguments(argv, {
    out: 'value',
    before: 'value',
    after: 'value',
    strength: 'value',
    threads: 'value',
    json: 'value',
  });
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
  const neighbours: Neighbour[] = [];
  for (const [name, isAfter] of [
    ['after', true],
    ['before', false],
  ] as const) {
    const other = one(args, name);
    if (other === undefined) continue;
    const frame = layersOf(await withExr(other, readParts));
    if (frame.width !== film.width || frame.height !== film.height)
      throw new UsageError(
        `--${name} ${other}: is ${frame.width}×${frame.height}, ${path} ${film.width}×${film.height}`,
      );
    neighbours.push({ film: frame, isAfter });
  }
  const done = await denoiseLayers(film, { assets, threads, scale, strength, neighbours }).catch((error) => {
    const isTold = error instanceof DenoiseError || error instanceof NeighbourError;
    const of = neighbours.length > 0 ? `${path} or a frame about it` : path;
    throw isTold ? new UsageError(`${of}: ${error.message}`) : error;
  });
  const { bytes } = await writeExr(
    withLayers(parts, done.layers).map((part) => ({ ...part, attributes: { ...part.attributes, ...done.attributes } })),
    nodeDeflate,
  );
  await writeWhole(out, bytes);
  print(one(args, 'json') === '-', { film: out, ...done.figures }, inWords(out, done.figures));
  return 0;
}
