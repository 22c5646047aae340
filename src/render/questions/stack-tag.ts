import { type Source, spaceOfPlate } from '@/core/comp';
import { isData } from '@/core/film';
import { type Mistaken, mistaken } from '@/core/proof';
import { type StackOver, stackAside } from '../views/stack';
import type { Question } from './question';
import { filmOfA } from './stack-film';

/** A stack of one layer alone, in linear Rec.709, hiding all below. */
function alone(over: StackOver, source: Exclude<Source, { from: 'solid' }>): StackOver {
  const whole = source.from === 'film' ? { ...source, alpha: 'whole' as const, mood: null } : source;
  const entry = {
    ...{ kind: 'layer' as const, name: '', on: true, opacity: 1, mask: null, way: 'over' as const, operations: [] },
    source: whole,
  };
  return { ...over, stack: { ...over.stack, space: 'Rec.709', entries: [entry] }, lookedAt: null };
}

/**
 * Whether a picture or a layer of a file in a stack is in another space than it is taken for, by what A shows of the same: the layer of that name, the beauty otherwise. Null
 * where nothing says so.
 */
export const stackTag: Question<{ over: StackOver; source: Source; shown: string }, Mistaken | null> = async (
  desk,
  { over, source, shown },
) => {
  if (source.from === 'solid') return null;
  const layer = source.from === 'film' ? source.layer : 'beauty';
  if (isData(layer) || (layer !== 'beauty' && !over.layers.includes(layer))) return null;
  const { film, place } = await filmOfA(desk, ['beauty', ...over.layers]);
  const made = async (of: StackOver) => stackAside(of, film, place, await desk.besides.of(of));
  const reference = { from: 'film', film: shown, layer, alpha: 'whole', reachMetres: null, mood: null } as const;
  const { planes, ...size } = await made(alone(over, source));
  const wanted = await made(alone(over, reference));
  const told =
    source.from === 'film'
      ? (over.primaries[source.film] ?? 'Rec.709')
      : spaceOfPlate(over.stack.pictures[source.picture], over.contents[source.picture] ?? {});
  return mistaken(planes.slice(0, 3), wanted.planes.slice(0, 3), size, told);
};
