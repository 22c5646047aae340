import type { FilmLayers } from '@/core/film';
import { type FilmDesk, liveOf } from '../page/desk';
import type { FilmOf } from '../views/film-of';

/** The film that a question is about: a trial's, or the live picture as it is. */
export type FilmAt = FilmOf | 'live';

/** Layers of it; throws in words where it lacks one. */
export async function filmAt(desk: FilmDesk, of: FilmAt, names: string[]): Promise<FilmLayers> {
  if (of !== 'live') return desk.cache.film(of, names);
  const film = liveOf(desk).layers(names);
  if (!film) throw new Error('the live picture is on its way, or its recipe keeps no light groups');
  return film;
}
