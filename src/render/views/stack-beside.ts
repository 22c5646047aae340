import type { LookTable, Picture } from '@/core/comp';
import type { FilmLayers } from '@/core/film';

/** What a stack needs beside the film that is shown, as it was read. */
export interface StackBeside {
  films: ReadonlyMap<string, FilmLayers>;
  /** Files of layers, light such that 1 is display white. */
  files: ReadonlyMap<string, FilmLayers>;
  pictures: ReadonlyMap<string, Picture>;
  tables: ReadonlyMap<string, LookTable>;
}
