import { halfOf, type Picture, StackError, screenLight } from '@/core/comp';
import { type FilmLayers, type Half, isData } from '@/core/film';
import { between, planesThrough, type WorkingSpace } from '@/core/image';
import { type Noise, noiseOf, type Rgb } from '@/core/stats';
import { type StackOver, stackAside, stackPicture, unscaled } from '../views/stack';
import type { Question } from './question';
import { filmOfA, resultOf } from './stack-film';

export interface StackFigures {
  /** Of the result, from both halves led through every operation; null where a layer is kept without halves. */
  noise: Noise | null;
  /** Share of the pixels with a channel of the screen beyond white, and below nothing. */
  beyond: number;
  below: number;
  /** What the parts that are asked for lack of the beauty, as a share of its light; null where none are. */
  lacks: number | null;
}

/** Lets what came in meanwhile be dealt with: a picture that somebody waits for goes first. */
const breathe = () => new Promise((resolve) => setTimeout(resolve));

/** Layers and the halves that they are kept in. */
const halved = (layers: readonly string[]): string[] =>
  layers.flatMap((n) => (isData(n) ? [n] : [n, ...HALVES.flatMap((h) => halfOf(n, h) ?? [])]));
const HALVES = ['a', 'b'] as const;

/** A stack whose other films are there in halves too. */
const withHalves = (over: StackOver): StackOver => ({
  ...over,
  others: Object.fromEntries(
    Object.entries(over.others).map(([name, { of, layers }]) => [name, { of, layers: halved(layers) }]),
  ),
});

/** Light as it is shown in sRGB, by which noise is told. */
const rgbOf = ({ planes }: Picture, space: WorkingSpace): Rgb => [...planesThrough(planes, between(space, 'Rec.709'))];

function share([r, g, b]: readonly Float32Array[], is: (v: number) => boolean): number {
  let count = 0;
  for (let i = 0; i < r.length; i++) if (is(r[i]) || is(g[i]) || is(b[i])) count++;
  return count / r.length;
}

function lacksOf(film: FilmLayers, parts: readonly string[]): number | null {
  const beauty = film.layers.get('beauty');
  if (!beauty || parts.length === 0) return null;
  let all = 0;
  let off = 0;
  for (let c = 0; c < 3; c++) {
    const planes = parts.map((name) => film.layers.get(name)!.planes[c]);
    for (let i = 0; i < beauty.planes[c].length; i++) {
      let rest = beauty.planes[c][i];
      all += rest;
      for (const p of planes) rest -= p[i];
      off += Math.abs(rest);
    }
  }
  return all > 0 ? off / all : null;
}

/**
 * What a stack over the film of A comes to. `parts`: layers of that film that are to add up to its beauty. `exact`: whether it may take long,
 * so that its noise is measured. Throws in words while there is no picture.
 */
export const stackFigures: Question<{ over: StackOver; parts: string[]; exact: boolean }, StackFigures> = async (
  desk,
  { over, parts, exact },
  { signal },
) => {
  const beside = await desk.besides.of(over);
  const besideHalves = exact ? await desk.besides.of(withHalves(over)) : beside;
  const names = [...new Set(['beauty', ...over.layers, ...parts])];
  const { film, place } = await filmOfA(desk, exact ? [...new Set(halved(names))] : names);
  const result = resultOf(desk, over) ?? stackPicture(over, film, place, beside);
  const half = (h: Half) => rgbOf(stackAside(over, film, place, besideHalves, h), over.stack.space);
  const noiseOfHalves = async (): Promise<Noise | null> => {
    await breathe();
    const a = half('a');
    await breathe();
    if (signal.aborted) return null;
    return noiseOf(a, half('b'), film.width, film.height, unscaled(desk.sceneExposure, over.scale));
  };
  const light = screenLight(result, over.stack);
  let noise: Noise | null = null;
  try {
    if (exact && over.layers.length > 0) noise = await noiseOfHalves();
  } catch (error) {
    // A layer that is kept without halves has no noise that could be told.
    if (!(error instanceof StackError)) throw error;
  }
  return {
    noise,
    beyond: share(light, (v) => v > 1),
    below: share(light, (v) => v < 0),
    lacks: lacksOf(film, parts),
  };
};
