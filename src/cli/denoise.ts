import { availableParallelism } from 'node:os';
import { extname } from 'node:path';
import {
  blendLayer,
  changedNames,
  DenoiseError,
  denoisedLayers,
  flicker,
  type HotLight,
  joinNeighbours,
  movedTo,
  NeighbourError,
} from '@/core/denoise';
import { type Attribute, layersOf, withLayers, writeExr } from '@/core/exr';
import { type FilmLayers, noiseOfLayers } from '@/core/film';
import type { Noise } from '@/core/stats';
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
  /** How it was joined with the frames about it; null where none was given. */
  joined: JoinedFigures | null;
}

interface JoinedFigures {
  frames: number;
  /** Mean share of the neighbours in the picture. */
  share: number;
  /** Difference to a neighbour moved here, in percent of display white: as rendered, each denoised alone, and joined. */
  flicker: { rendered: number | null; alone: number | null; joined: number | null };
}

/** A frame before or after the one that is denoised. */
interface Neighbour {
  film: FilmLayers;
  isAfter: boolean;
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
  const films = [film, ...neighbours.map((n) => n.film)];
  const done = [];
  for (const [k, one] of films.entries())
    done.push(
      await denoiseFilm(one, {
        module,
        spawn: spawnNode(assets.thread),
        threads,
        scale,
        onSquare: (n, of) => tell({ fraction: (k + n / of) / films.length, elapsedMs: performance.now() - started }),
      }),
    );
  if (process.stderr.isTTY) process.stderr.write('\n');
  const { prepared, hot } = done[0];
  const alone = done.map((d, k) => denoisedLayers(films[k], d.prepared));
  const joined = neighbours.length > 0 ? join(films, alone, neighbours, scale) : null;
  const layers = joined
    ? blended(film, joined.film, changedNames(film, prepared), strength / 100)
    : denoisedLayers(film, prepared, strength / 100);
  const seconds = (performance.now() - started) / 1000;
  return {
    layers,
    figures: {
      seconds,
      strength,
      parts: prepared.leads.length + prepared.followers.length,
      noise: noiseOfLayers(film, scale),
      residual: noiseOfLayers(layers, scale),
      hot,
      joined: joined?.figures ?? null,
    },
    attributes: { 'lantern:denoised': { type: 'string', value: `${strength} % by lantern ${assets.version}` } },
  };
}

function blended(film: FilmLayers, made: FilmLayers, names: string[], all: number): FilmLayers {
  const layers = new Map(film.layers);
  for (const n of names) layers.set(n, blendLayer(n, names, film, made, { all, groups: {} }));
  return { ...film, layers };
}

/** The first film joined with the others, and its flicker against the first of them. */
function join(films: FilmLayers[], alone: FilmLayers[], neighbours: readonly Neighbour[], scale: number) {
  const about = neighbours.map((n, k) => ({ frame: alone[k + 1], isAfter: n.isAfter }));
  const { film, share } = joinNeighbours(alone[0], about);
  const moved = movedTo(films[0], films[1], about[0].isAfter);
  const of = (own: FilmLayers, other: FilmLayers) => flicker(own, other, moved, scale);
  // Its neighbour has this frame and no other to be joined with.
  const back = joinNeighbours(alone[1], [{ frame: alone[0], isAfter: !about[0].isAfter }]).film;
  const figures: JoinedFigures = {
    frames: neighbours.length,
    share,
    flicker: { rendered: of(films[0], films[1]), alone: of(alone[0], alone[1]), joined: of(film, back) },
  };
  return { film, figures };
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
