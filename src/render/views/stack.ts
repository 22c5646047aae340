import {
  exposed,
  filmInFrame,
  inPage,
  maskPlane,
  type Picture,
  placed,
  type Read,
  StackMemo,
  screenLight,
  shownIn,
  shownValues,
  sourcesOf,
} from '@/core/comp';
import type { FilmLayers, Half } from '@/core/film';
import { between, type Display, planesThrough, scaleOf } from '@/core/image';
import type { Over } from '@/core/stacks';
import { striped } from './clipped';
import { stopsPainted } from './exposure';
import type { FilmOf } from './film-of';
import type { Kind } from './kind';
import { color, type Painted } from './painting';
import type { Placement } from './place';
import type { StackBeside } from './stack-beside';
import { thinned } from './thinned';

/** A stack over a film that is shown, and films of trials beside it. */
export type StackOver = Over<FilmOf>;

const NOTHING_BESIDE: StackBeside = { films: new Map(), files: new Map(), pictures: new Map(), tables: new Map() };

/** All that a stack names, over a film that lies somewhere in its frame: pictures are placed there. Films thinned for speed have pictures thinned too. */
function readFor(over: StackOver, film: FilmLayers, place: Placement | null, beside: StackBeside): Read {
  const whole = place ?? { width: film.width, height: film.height, x: 0, y: 0, w: film.width, h: film.height };
  const [kx, ky] = [film.width / whole.w, film.height / whole.h];
  const frame = { width: Math.round(whole.width * kx), height: Math.round(whole.height * ky) };
  const part = { x: Math.round(whole.x * kx), y: Math.round(whole.y * ky), w: film.width, h: film.height };
  return {
    films: new Map([
      ...[...beside.films].map(
        ([name, f]) => [name, filmInFrame(exposed(kx < 1 ? thinned(f) : f, over.scale), name, frame, part)] as const,
      ),
      ...[...beside.files].map(([name, f]) => [name, filmInFrame(f, name, frame, part)] as const),
      ...shownIn(over.stack).map((name) => [name, exposed(film, over.scale)] as const),
    ]),
    pictures: new Map(
      [...beside.pictures].map(([name, p]) => [name, placed(p, over.stack.pictures[name].place, frame, part)]),
    ),
    tables: beside.tables,
    objects: over.objects,
    masks: new Map(Object.entries(over.masks)),
    moods: new Map(Object.entries(over.moods)),
    space: over.stack.space,
    primaries: new Map(Object.entries(over.primaries)),
  };
}

/** Placed pictures and the last result over a film, for as long as the film is there. */
interface Made {
  key: string;
  beside: StackBeside;
  read: Read;
  memo: StackMemo;
  result: Picture | null;
}
const made = new WeakMap<FilmLayers, Made>();

/** What some stack makes of a film, or of every other sample of it, without keeping anything for the one that is shown; throws `StackError`. */
export const stackAside = (
  over: StackOver,
  film: FilmLayers,
  place: Placement | null,
  beside: StackBeside,
  half: Half | null = null,
): Picture => new StackMemo().evaluate(over.stack, sourcesOf(readFor(over, film, place, beside), half));

/** What the stack that is shown makes of a film, made anew only as far as it has changed; throws `StackError`. */
export function stackPicture(
  over: StackOver,
  film: FilmLayers,
  place: Placement | null,
  beside: StackBeside = NOTHING_BESIDE,
): Picture {
  const key = JSON.stringify([
    place,
    over.scale,
    over.stack.space,
    over.stack.pictures,
    over.objects.length,
    over.masks,
    over.moods,
  ]);
  const known = made.get(film);
  const now: Made =
    known?.key === key && known.beside === beside
      ? known
      : { key, beside, read: readFor(over, film, place, beside), memo: new StackMemo(), result: null };
  made.set(film, now);
  now.result = now.memo.evaluate(over.stack, sourcesOf(now.read));
  return now.result;
}

/** What was made of a film last, for reading pixels of it; null before it has been shown. */
export const stackResult = (film: FilmLayers): Picture | null => made.get(film)?.result ?? null;

/** A display of light of which 1 is display white already. */
export const unscaled = (display: Display, scale: number): Display =>
  typeof display === 'number' ? display / scale : { ...display, scale: scaleOf(display) / scale };

/** How bright the picture stays where a mask that is looked at is not. */
const REST = 0.12;

/** What a stack makes as this page shows it: on a page that is not `wide`, screens of other primaries as far as sRGB has them. */
function onPage(picture: Picture, { stack, scale, wide }: SeenStack, exposure: Display, beside?: StackBeside): Painted {
  const display = unscaled(exposure, scale);
  const by = wide ? stack : inPage(stack);
  if (by.display.to === 'sRGB') return color(screenLight(picture, by), display);
  const values = shownValues(picture, by, display, (name) => beside?.tables.get(name));
  const pixels = new Uint8ClampedArray(values[0].length * 4).fill(255);
  values.forEach((plane, c) => {
    for (let i = 0; i < plane.length; i++) pixels[i * 4 + c] = plane[i] * 255;
  });
  return { pixels, legend: null, ...(by.display.to === 'Display P3' ? { space: 'display-p3' } : {}) };
}

/** The picture that a stack makes; `told`: how bright it is instead, or with what a screen cuts. `wide`: the page has the colours of Display P3. */
type SeenStack = StackOver & { told?: 'exposure' | 'clipped'; wide?: boolean };

export const stack: Kind<SeenStack> = {
  layers: ({ layers }) => ['beauty', ...layers],
  paint: (film, over, { exposure, at }) => {
    const picture = stackPicture(over, film, at?.place ?? null, at?.beside);
    const scale = scaleOf(unscaled(exposure, over.scale));
    if (over.told === 'exposure')
      return stopsPainted(planesThrough(picture.planes, between(over.stack.space, 'Rec.709')), scale);
    const painted = onPage(picture, over, exposure, at?.beside);
    if (over.told === 'clipped') return striped(painted, screenLight(picture, over.stack), film.width, scale);
    const mask = over.lookedAt === null ? undefined : over.stack.masks[over.lookedAt];
    if (!mask) return painted;
    const { read } = made.get(film)!;
    const share = maskPlane(mask, film.width, film.height, sourcesOf(read).mask);
    const { pixels } = painted;
    for (let i = 0; i < share.length; i++) {
      const k = REST + (1 - REST) * share[i];
      for (let c = 0; c < 3; c++) pixels[i * 4 + c] *= k;
    }
    return painted;
  },
};
