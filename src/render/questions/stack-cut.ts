import { cutBy, type TableEncoding } from '@/core/comp';
import { type StackOver, stackAside } from '../views/stack';
import type { Question } from './question';
import { filmOfA } from './stack-film';

/** Share of the values of what a stack makes of the film of A that a look table cuts at its ends; null where the table is not there. */
export const stackCut: Question<{ over: StackOver; table: string; encoding: TableEncoding }, number | null> = async (
  desk,
  { over, table, encoding },
) => {
  const beside = await desk.besides.of(over);
  const of = beside.tables.get(table);
  if (!of) return null;
  const { film, place } = await filmOfA(desk, ['beauty', ...over.layers]);
  const picture = stackAside(over, film, place, beside);
  return cutBy(picture, { encoding }, of, over.stack.space) / (3 * film.width * film.height);
};
