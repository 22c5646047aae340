import {
  ALL_GROUPS,
  fitted,
  layersOf,
  type MoodFactors,
  type Need,
  OF_FILE,
  OF_VARIANT,
  type Stack,
  type StackDocument,
  shownIn,
  stackAt,
} from '../comp';
import { type Masking, maskNeeds } from '../exr';
import { LAYER, layerInfo, OPENNESS } from '../film';
import type { Chromaticities, Space } from '../image';
import { type Mask, maskingOf } from '../outputs';
import { type Content, coverageNames, pickableOf, pickedBy, type SceneDocument, stillAt } from '../scene';

/** A stack at a frame, and where what it names is. */
export interface Over<F> {
  stack: Stack;
  /** Layers that it reads of the film that is shown. */
  layers: string[];
  /** Names of objects as films number them. */
  objects: string[];
  /** What layers of masks are made of, where the film has them not as they are. */
  masks: Record<string, Masking>;
  /** Factor from radiance to the display. */
  scale: number;
  /** Films of trials beside the one that is shown, each with the layers that are read of it. */
  others: Record<string, { of: F; layers: string[] }>;
  /** Files of layers, by the names that the stack has for them as films. */
  files: Record<string, { content: Content; layers: string[] }>;
  /** Primaries of films that are not Rec.709. */
  primaries: Record<string, Space | Chromaticities>;
  /** Pictures of the shot; null where a plate has none at the frame. */
  contents: Record<string, Content | null>;
  /** Look tables by their hashes. */
  tables: Record<string, string>;
  /** Moods as factors of light groups. */
  moods: Record<string, MoodFactors>;
  /** A mask that is looked at: the picture dimmed where it is not; null for none. */
  lookedAt: string | null;
}

/** What a stack lies over, and what it may name. */
export interface StackedOn<F> {
  document: StackDocument;
  frame: number;
  /** Layers that the film keeps. */
  kept: readonly string[];
  scene: SceneDocument;
  /** Factor from radiance to the display. */
  scale: number;
  masks: readonly Mask[];
  /** Moods of the shot by their names. */
  moods: Readonly<Record<string, MoodFactors>>;
  /** A film that a stack takes beside the one that is shown, by where it says that it is, and the layers that it keeps where that is known; undefined where it is not there. */
  otherFilm: (where: string) => { of: F; kept?: readonly string[] } | undefined;
  lookedAt: string | null;
}

/** A stack at a frame over a film, what its entries lack (by where they stand), and entries that lack something off. */
export interface OverFilm<F> {
  stack: Stack;
  missing: ReadonlyMap<string, Need[]>;
  over: Over<F>;
}

function contentsOf(stack: Stack, document: SceneDocument, frame: number): Over<unknown>['contents'] {
  const found = Object.entries(stack.pictures).flatMap(([name, { file }]) => {
    const plate = document.plates.find((p) => p.name === file);
    const still = plate ? stillAt(plate, frame) : file;
    const content = document.contents.find((c) => c.name === still) ?? null;
    return content || plate ? [[name, content] as const] : [];
  });
  return Object.fromEntries(found);
}

/** The file of layers that a film of a stack is; undefined where it is none, or is not there. */
function fileIn({ films }: Stack, scene: SceneDocument, name: string): Content | undefined {
  const where = films[name] ?? '';
  if (!where.startsWith(OF_FILE)) return undefined;
  return scene.contents.find((c) => c.use === 'layers' && c.name === where.slice(OF_FILE.length));
}

/** Primaries of a stack's files of layers: what is said of them, else what they say themselves. */
function primariesIn(stack: Stack, fileOf: (name: string) => Content | undefined): Over<unknown>['primaries'] {
  return Object.fromEntries(
    Object.keys(stack.films).flatMap((name) => {
      const told = stack.spaces[name] ?? fileOf(name)?.primaries;
      return told ? [[name, told]] : [];
    }),
  );
}

/** A stack over a film of a shot. Throws `StackError` where it cannot be read at the frame. */
export function stackOver<F>(on: StackedOn<F>): OverFilm<F> {
  const { kept, scene } = on;
  const plain = stackAt(on.document, on.frame);
  const from = pickableOf(scene);
  const made = Object.fromEntries(
    on.masks.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))] as const),
  );
  /** What a film that keeps some layers has of which one is made. */
  const of = (layer: string, has: readonly string[]): string[] => {
    if (made[layer]) return maskNeeds(made[layer]).flatMap((n) => of(n, has));
    if (layer === ALL_GROUPS) {
      const groups = has.filter((n) => layerInfo(n).family === 'group');
      return groups.length > 0 ? groups : [ALL_GROUPS];
    }
    return [layer === OPENNESS.layer && has.includes(OPENNESS.bands) ? OPENNESS.bands : layer];
  };
  const isThere = (layer: string, has: readonly string[]) => of(layer, has).every((n) => has.includes(n));
  const shown = shownIn(plain);
  const others = Object.fromEntries(
    Object.entries(plain.films).flatMap(([name, where]) => {
      const film = on.otherFilm(where);
      return film ? [[name, { ...film, isVariant: where.startsWith(OF_VARIANT) }] as const] : [];
    }),
  );
  const contents = contentsOf(plain, scene, on.frame);
  const fileOf = (name: string) => fileIn(plain, scene, name);
  const isThereIn = (film: string, layer: string): boolean => {
    if (shown.includes(film)) return isThere(layer, kept);
    // What is not known yet to lack something may have it.
    if (Object.hasOwn(others, film)) return !others[film].kept || isThere(layer, others[film].kept);
    return fileOf(film)?.layers?.some((l) => l.name === layer) ?? false;
  };
  const { stack, missing } = fitted(plain, {
    layer: ({ film, layer }) => isThereIn(film, layer),
    picture: (name) => Object.hasOwn(contents, name),
  });
  const read = shown.flatMap((film) => layersOf(stack, film)).flatMap((layer) => of(layer, kept));
  const over: Over<F> = {
    stack,
    layers: [...new Set(read)].filter((l) => kept.includes(l)),
    objects: coverageNames(scene),
    masks: made,
    scale: on.scale,
    others: Object.fromEntries(
      Object.entries(others).flatMap(([name, { of: film, kept: has, isVariant }]) => {
        // Of another trial light is taken as it is: it hides nothing. What is in a variant hides what is behind it.
        const wanted = layersOf(stack, name).filter((l) => l !== 'alpha' || (isVariant && has?.includes(l)));
        const layers = [...new Set(has ? wanted.flatMap((l) => of(l, has)) : wanted)];
        return layers.some((l) => l !== 'alpha') ? [[name, { of: film, layers }]] : [];
      }),
    ),
    files: Object.fromEntries(
      Object.keys(stack.films).flatMap((name) => {
        const content = fileOf(name);
        const layers = content ? layersOf(stack, name) : [];
        return content && layers.length > 0 ? [[name, { content, layers }]] : [];
      }),
    ),
    primaries: primariesIn(stack, fileOf),
    contents,
    tables: stack.tables,
    // A mood of the stack is one of the shot by its name.
    moods: Object.fromEntries(
      Object.entries(stack.moods).flatMap(([name, mood]) => (on.moods[mood] ? [[name, on.moods[mood]]] : [])),
    ),
    lookedAt: on.lookedAt,
  };
  return { stack, missing, over };
}
