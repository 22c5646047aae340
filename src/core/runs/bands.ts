import type { Recipe } from '../recipe';

/** Largest film that is held in memory, in bytes. */
export const MOST_FILM_BYTES = 4e9;

/** Whether samples are dealt out over the frame by its noise, for which the whole of it must be there. */
export const dealsOut = ({ sampling }: Recipe): boolean => sampling.adapt === 'cheapest' && sampling.stopNoise > 0;

/** In how many bands a film of so many bytes is rendered where there is room for some. Throws in words where it must be whole. */
export function bandsFor(recipe: Recipe, bytes: number, room: number): number {
  const bands = Math.max(1, Math.ceil(bytes / room));
  if (bands > 1 && dealsOut(recipe))
    throw new Error(
      `sampling.adapt cheapest needs the whole frame at once: ${Math.ceil(bytes / 1e6)} MB, of which ${Math.floor(room / 1e6)} MB may be used; keep fewer planes or deal out evenly`,
    );
  return bands;
}
