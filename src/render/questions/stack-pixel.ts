import { applied, between } from '@/core/image';
import { pixelAt } from '../page/probe';
import { type StackOver, stackAside } from '../views/stack';
import type { Question } from './question';
import { filmOfA } from './stack-film';

/** What a stack over the film of A makes of a point at fractions of the frame, straight, linear Rec.709, 1 = display white; and how far away it is, where the film tells. */
export const stackPixel: Question<
  { over: StackOver; x: number; y: number },
  { rgb: [number, number, number] | null; depth: number | null }
> = async (desk, { over, x, y }) => {
  const { film, place } = await filmOfA(desk, ['beauty', ...over.layers]);
  const pixel = pixelAt({ film, place }, x, y);
  if (!pixel) return { rgb: null, depth: null };
  const { planes } = stackAside(over, film, place, await desk.besides.of(over));
  const alpha = planes[3][pixel.i] > 0 ? planes[3][pixel.i] : 1;
  const own = planes.slice(0, 3).map((p) => p[pixel.i] / alpha);
  const [r, g, b] = applied(between(over.stack.space, 'Rec.709'), own);
  return { rgb: [r, g, b], depth: film.layers.get('depth')?.planes[0][pixel.i] ?? null };
};
