import {
  type LookTable,
  OF_TRIAL,
  type Picture,
  pictureExr,
  type Stack,
  type StackDocument,
  shownFile,
} from '@/core/comp';
import type { PartHeader } from '@/core/exr';
import { type FilmLayers, type FilmSpec, layerNames } from '@/core/film';
import { displayOf, exposureScale } from '@/core/image';
import { groupColors } from '@/core/kernel';
import { type Moods, mixAt, mixFactors } from '@/core/moods';
import type { Mask } from '@/core/outputs';
import type { CompKind } from '@/core/runs';
import { type Over, stackOver } from '@/core/stacks';
import { nodeDeflate } from '@/node/zlib';
import type { Besides } from '../views/besides';
import type { FilmOf } from '../views/film-of';
import { stackPicture, unscaled } from '../views/stack';
import type { FilmOrigin } from './film-exr';

/** What a frame is composited by: the shot's stack, its moods and masks. */
export interface CompOf {
  stack: StackDocument;
  moods: Moods;
  masks: readonly Mask[];
}

/** The film of a variant that a stack takes: the layers that it keeps, and what reads them. */
export interface TakenFilm {
  kept: readonly string[];
  read: (names: readonly string[]) => Promise<FilmLayers>;
}

type Others<F> = Over<F>['others'];

/** Films of variants apart from those of trials. */
function apart(others: Others<FilmOf | TakenFilm>): [Others<TakenFilm>, Others<FilmOf>] {
  const [variants, trials]: [Others<TakenFilm>, Others<FilmOf>] = [{}, {}];
  for (const [name, { of, layers }] of Object.entries(others))
    if ('read' in of) variants[name] = { of, layers };
    else trials[name] = { of, layers };
  return [variants, trials];
}

/** Films of trials that a stack takes, by their identifiers. */
export const trialsIn = (stack: StackDocument): string[] =>
  Object.values((stack.films ?? {}) as Record<string, string>).flatMap((where) =>
    where.startsWith(OF_TRIAL) ? [where.slice(OF_TRIAL.length)] : [],
  );

/**
 * What a stack makes of a frame that was rendered, in light of which 1 is display white. Entries that lack something are left out,
 * as the page leaves them out. `read` gives layers of the frame, `there` tells films of trials, and `taken` films of variants, by where the stack says that they are.
 */
export async function compFrame(
  read: (names: readonly string[]) => Promise<FilmLayers>,
  spec: FilmSpec,
  { scene, camera, frame }: FilmOrigin,
  { stack, moods, masks }: CompOf,
  besides: Besides,
  there: ReadonlyMap<string, FilmOf>,
  taken: ReadonlyMap<string, TakenFilm>,
): Promise<CompMade> {
  const { groups } = spec;
  const own = groupColors(scene);
  const { over } = stackOver<FilmOf | TakenFilm>({
    document: stack,
    frame,
    kept: layerNames(spec),
    scene: scene.document,
    scale: exposureScale(camera.exposure),
    masks,
    moods: Object.fromEntries(
      moods.list.map((m) => [m.name, { groups, factors: mixFactors(groups, mixAt(m, frame, own), own) }]),
    ),
    otherFilm: (where) => {
      const variant = taken.get(where);
      if (variant) return { of: variant, kept: variant.kept };
      const trial = there.get(where);
      return trial && { of: trial };
    },
    lookedAt: null,
  });
  const layers = await read([...new Set(['beauty', ...over.layers])]);
  const { region, frame: whole } = spec;
  const place = { ...whole, x: region.x, y: region.y, w: region.width, h: region.height };
  const [variants, trials] = apart(over.others);
  const lying = { ...over, others: trials };
  const beside = await besides.of(lying);
  const films = new Map(beside.films);
  for (const [name, { of, layers: names }] of Object.entries(variants)) films.set(name, await of.read(names));
  return {
    picture: stackPicture(lying, layers, place, { ...beside, films }),
    stack: over.stack,
    tables: beside.tables,
  };
}

/** What a stack made of a frame, how it is shown, and the look tables that it has. */
export interface CompMade {
  picture: Picture;
  stack: Stack;
  tables: ReadonlyMap<string, LookTable>;
}

/** The picture as a file's bytes: OpenEXR as it is, PNG and TIFF of 16 bits as shown. */
export async function compFile(
  { picture, stack, tables }: CompMade,
  as: CompKind,
  { scene, camera }: FilmOrigin,
  header: PartHeader,
): Promise<Uint8Array> {
  if (as === 'exr') return pictureExr(picture, { stack: stack.name, header, space: stack.space }, nodeDeflate);
  const display = unscaled(displayOf(camera.exposure, scene.document.look), exposureScale(camera.exposure));
  return shownFile(picture, as, stack, display, (name) => tables.get(name));
}
