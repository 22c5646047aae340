import type { Picture } from '@/core/comp';
import type { FilmLayers } from '@/core/film';
import type { FilmDesk } from '../page/desk';
import type { Placement } from '../views/place';
import { type StackOver, stackResult } from '../views/stack';

/** Layers of what A shows, and where it lies in its frame; throws in words while there is nothing to stack. */
export async function filmOfA(
  { sources, cache, live }: FilmDesk,
  names: readonly string[],
): Promise<{ film: FilmLayers; place: Placement }> {
  const source = sources.A;
  if (source?.kind === 'trial') return { film: await cache.film(source, names), place: source.frame };
  const film = source?.kind === 'live' ? live?.layers([...names]) : null;
  const place = live?.place();
  if (!film || !place) throw new Error('the picture in A is on its way');
  return { film, place };
}

/** What A shows of this very stack, where it does: it is made already. */
export function resultOf({ views, shown }: FilmDesk, over: StackOver): Picture | null {
  const view = views.A;
  if (view.kind !== 'stack' || !shown.A) return null;
  const { kind: _, ...own } = view;
  // A mask that is looked at makes no other result.
  const plainly = (o: StackOver) => JSON.stringify({ ...o, lookedAt: null, told: null });
  return plainly(own) === plainly(over) ? stackResult(shown.A.film) : null;
}
