import { useMemo } from 'react';
import { OF_VARIANT, type Place } from '@/core/comp';
import { layerInfo, layersKept } from '@/core/film';
import { isOfVariant, type Output, pictureRecipe, possibleLayers } from '@/core/outputs';
import { together } from '../../state/history';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useSceneGroups } from '../../state/scene-now';
import { add } from './actions';
import { filmAt } from './files';

/** A variant that the stack can take layers of: the name of its first output, layers that its films keep, and those that they can. */
export interface VariantLayers {
  name: string;
  kept: readonly string[];
  possible: readonly string[];
}

/** Variants of the shot, each once. */
export function useVariantLayers(): VariantLayers[] {
  const outputs = useOutputs((s) => s.outputs);
  const recipe = useRecipe((s) => s.recipe);
  const groups = useSceneGroups();
  return useMemo(() => {
    if (!outputs || !recipe) return [];
    const isFirst = (o: Output, i: number) => outputs.list.findIndex((other) => isOfVariant(other, o.variant)) === i;
    const own = outputs.list.filter((o, i) => !isOfVariant(o, null) && isFirst(o, i));
    return own.map(({ name, variant }) => {
      const { film } = pictureRecipe(recipe, outputs, variant, groups);
      return { name, kept: layersKept(film, groups), possible: possibleLayers(film, groups) };
    });
  }, [outputs, recipe, groups]);
}

/** Adds a layer of a variant's picture: of its newest trial in a still, of the same frame in a run. */
export function addVariantLayer(name: string, layer: string, place: Place): void {
  const words = layer === 'beauty' ? `picture of ${name}` : `${layerInfo(layer).words} of ${name}`;
  together(words, () => {
    const film = filmAt(`${OF_VARIANT}${name}`, name, `variant ${name}`);
    add(words, place, { kind: 'layer', name: words.slice(0, 120), source: { from: 'film', film, layer } });
  });
}
