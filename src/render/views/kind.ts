import type { FilmLayers } from '@/core/film';
import type { Display } from '@/core/image';
import type { Painted, Range } from './painting';
import type { Placement } from './place';
import type { StackBeside } from './stack-beside';

/** How a view is looked at, beside its film. */
export interface Seeing {
  /** The display transform: the view's exposure, or the scene's where noise is weighed. */
  exposure: Display;
  /** B's film, for what shows A against it. */
  other: FilmLayers | null;
  /** Ends of the scale instead of the film's own, so that two films side by side compare. */
  scale: Range | null;
  /** Where the film lies in its frame, and what a stack needs beside it. */
  at?: { place: Placement; beside?: StackBeside };
}

/** A kind of view of a film: which layers it needs, and how they become pixels. */
export interface Kind<Options> {
  /** Layers it needs; `kept` are those that the film keeps. */
  layers: (options: Options, kept: readonly string[]) => readonly string[];
  /** Null when the film lacks what it needs. */
  paint: (film: FilmLayers, options: Options, seeing: Seeing) => Painted | null;
  /** Whether it shows A against B. */
  against?: true;
  /** Whether it weighs noise, which goes by the scene's exposure and not by the view's. */
  weighsNoise?: true;
}
