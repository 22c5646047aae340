import { useMemo } from 'react';
import { finished } from '@/contract/trial';
import { entriesOf, OF_TRIAL, type Place, type Stack, withAt } from '@/core/comp';
import { FAMILIES, layerInfo } from '@/core/film';
import { frameOf } from '@/core/recipe';
import { two } from '@/core/words';
import { together } from '../../state/history';
import { useRecipe } from '../../state/recipe-store';
import { useSlotTrial } from '../../state/slots';
import { type ListedTrial, useTrials } from '../../state/trials-store';
import { add, change } from './actions';

/** Parts of a film's light that are in a stack. */
export function addedParts(entries: Stack['entries'], film: string): string[] {
  const all = entriesOf(entries).flatMap(({ entry }) =>
    entry.kind === 'layer' && entry.on && entry.source.from === 'film' && entry.source.film === film
      ? [entry.source.layer]
      : [],
  );
  return [...new Set(all)].filter((n) => FAMILIES[layerInfo(n).family].sums);
}

/** What is left of the picture without some light, as one layer that adds up. */
export function addDifference(
  name: string,
  place: Place,
  film: string,
  without: readonly { film: string; layer: string }[],
): void {
  const light = (source: object, way: string) => ({
    kind: 'layer',
    way,
    source: { from: 'film', alpha: 'whole', ...source },
  });
  add(name, place, {
    kind: 'nest',
    name,
    way: 'add',
    entries: [light({ film, layer: 'beauty' }, 'over'), ...without.map((s) => light(s, 'subtract'))],
  });
}

/** The picture less that of another trial, as one layer. */
export function addLessTrial(trial: ListedTrial, place: Place, film: string): void {
  const name = `trial ${two(trial.number)}`;
  together(`picture less ${two(trial.number)}`, () => {
    change(name, (s) => withAt(s, ['films', name], `${OF_TRIAL}${trial.id}`));
    addDifference(`picture less ${two(trial.number)}`, place, film, [{ film: name, layer: 'beauty' }]);
  });
}

const MOST_TRIALS = 8;
/** Finished trials of the size of what A shows, the newest first. */
export function useComparable(): ListedTrial[] {
  const byId = useTrials((s) => s.byId);
  const order = useTrials((s) => s.order);
  const a = useSlotTrial('A');
  const recipe = useRecipe((s) => s.recipe);
  return useMemo(() => {
    const size = a ? a.pixels : recipe && frameOf(recipe);
    const fits = ({ id, pixels: { width, height, region } }: ListedTrial) =>
      id !== a?.id && size !== null && width === size.width && height === size.height && region.width === width;
    return order
      .flatMap((id) => byId.get(id) ?? [])
      .filter((t) => finished(t) && fits(t))
      .slice(0, MOST_TRIALS);
  }, [byId, order, a, recipe]);
}
