import { scaleOf } from '@/core/image';
import { type PictureErrors, pictureErrors } from '@/core/stats';
import type { FilmDesk } from '../page/desk';
import { linearPixels } from '../page/reference-picture';
import type { Slot } from '../page/told';
import { overlap, type Shown } from '../views/overlap';
import type { Question } from './question';

/** The beauty of a slot, whatever view it shows. */
async function plainFilm(desk: FilmDesk, slot: Slot): Promise<Shown | null> {
  const source = desk.sources[slot];
  if (source?.kind === 'trial') return { film: await desk.cache.film(source, ['beauty']), place: source.frame };
  return source ? desk.filmOf(slot) : null;
}

/** How far A is from B, B taken as the truth; throws in words where they do not compare. */
export const errors: Question<Record<string, never>, PictureErrors> = async (desk) => {
  const [a, b] = await Promise.all((['A', 'B'] as const).map((slot) => plainFilm(desk, slot)));
  if (!a || !b) throw new Error('one of the pictures is not there yet');
  const both = overlap(a, b);
  if (!both) {
    const size = ({ place: p }: Shown) => `${p.width}×${p.height}`;
    throw new Error(
      size(a) === size(b)
        ? 'A and B show regions that have no pixel in common'
        : `A is of a frame of ${size(a)} pixels, B of ${size(b)}: render both at one size`,
    );
  }
  const { width, height } = both.a.film;
  const [reference, test] = [both.b, both.a].map((s) => linearPixels(s, scaleOf(desk.sceneExposure)));
  return pictureErrors(reference, test, width, height, desk.sceneExposure).errors;
};
