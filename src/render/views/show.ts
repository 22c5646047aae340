import type { FilmLayers } from '@/core/film';
import type { Display } from '@/core/image';
import { changed } from './changed';
import { chosen } from './chosen';
import { clipped } from './clipped';
import { color } from './color';
import { cost } from './cost';
import { data } from './data';
import { depth } from './depth';
import { difference } from './difference';
import { exposure } from './exposure';
import { flip } from './flip';
import type { Kind, Seeing } from './kind';
import { noise } from './noise';
import { openness } from './openness';
import type { Painted, Range } from './painting';
import { picked } from './picked';
import { relit } from './relit';
import { roles } from './roles';
import { stack } from './stack';
import { tally } from './tally';

/** Every kind of view. Another one is a file and a line here. */
const VIEWS = {
  changed,
  chosen,
  clipped,
  color,
  cost,
  data,
  depth,
  difference,
  exposure,
  flip,
  noise,
  openness,
  picked,
  relit,
  roles,
  stack,
  tally,
};

type Views = typeof VIEWS;
type OptionsOf<K> = K extends Kind<infer Options> ? (unknown extends Options ? object : Options) : never;
/** What of a film the picture shows: a kind with its options. */
export type View = { [K in keyof Views]: { kind: K } & OptionsOf<Views[K]> }[keyof Views];

const kindOf = (view: View) => VIEWS[view.kind] as Kind<View>;

/** Layers a view needs of a film that keeps these. */
export const layersFor = (view: View, kept: readonly string[]): string[] => [...kindOf(view).layers(view, kept)];

/** Whether a view shows A against B. */
export const isAgainst = (view: View): boolean => kindOf(view).against === true;

/** Whether a view weighs noise, by the scene's exposure. */
export const weighsNoise = (view: View): boolean => kindOf(view).weighsNoise === true;

/**
 * Renders a view of a film as screen pixels. Null when the film lacks what the view needs. `other` is B's film; `scale`: the
 * ends of the scale instead of the film's own, so that two films side by side compare.
 */
export function show(
  film: FilmLayers,
  view: View,
  display: Display,
  other: FilmLayers | null,
  scale: Range | null = null,
  at?: Seeing['at'],
): Painted | null {
  return kindOf(view).paint(film, view, { exposure: display, other, scale, at });
}
