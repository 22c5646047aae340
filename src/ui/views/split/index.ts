import type { Trial } from '@/contract/trial';
import { maskNeeds } from '@/core/exr';
import { isData, OPENNESS, restFamily } from '@/core/film';
import type { View } from '@/render/views/show';
import { BEAUTY } from '../../state/showing';
import { shownLayer, trialLayers } from '../../state/sources';
import type { ViewEntry } from '../entry';
import { LayerSheet } from './layer-sheet';
import { LightLanes } from './light-lanes';
import { PicturesFace } from './pictures-face';
import { SplitPanel } from './split-panel';
import { summedFamily } from './summed';
import { TAKES } from './takes';

/** Look at every layer, see that parts add up, choose outputs. */
export const SPLIT: ViewEntry = {
  name: 'split',
  label: 'Split',
  key: '3',
  tip: 'Look at every layer, check that parts add up, take them away.',
  Panel: SplitPanel,
  dragsRange: true,
  faces: [
    {
      name: 'sheet',
      label: 'Layers',
      tip: 'Every layer of A beside each other, with its share of the light and its noise alone',
      Body: LayerSheet,
    },
    {
      name: 'lights',
      label: 'Lights',
      tip: 'Every source of light alone, and which light group films keep it in',
      Body: LightLanes,
    },
    {
      name: 'pictures',
      label: 'Pictures',
      tip: 'The shot’s picture and those that outputs have of their own: what they take, and all of them logged at once',
      Body: PicturesFace,
    },
  ],
  takes: TAKES,
  saysOfB: ({ layer, overlay }) => (overlay === 'none' && summedFamily(layer) ? 'sum of what is written' : null),
  shows: ({ desk: { layer, range }, a, b, masking, roles, written, reachMetres }) => {
    if (roles) return { a: { kind: 'roles', roles }, b: BEAUTY };
    const sum = summedFamily(layer);
    if (sum) return { a: BEAUTY, b: { kind: 'chosen', family: sum, of: [...written], what: 'sum' } };
    if (layer === OPENNESS.layer) {
      const view: View = { kind: 'openness', metres: reachMetres, range };
      const has = (layers: string[]) => layers.includes(OPENNESS.bands) || layers.includes(OPENNESS.layer);
      const of = (trial: Trial | null) => (trial && !has(trialLayers(trial)) ? BEAUTY : view);
      return { a: of(a), b: of(b) };
    }
    const rest = restFamily(layer);
    if (rest) {
      const view: View = { kind: 'chosen', family: rest, of: [...written], what: 'rest' };
      return { a: view, b: view };
    }
    if (masking) {
      const of = (trial: Trial | null): View =>
        trial && !maskNeeds(masking).every((n) => trialLayers(trial).includes(n))
          ? BEAUTY
          : { kind: 'picked', masking };
      return { a: of(a), b: of(b) };
    }
    const view: View = isData(layer) ? { kind: 'data', layer, range } : { kind: 'color', layer };
    const of = (trial: Trial | null) => (shownLayer(layer, trial && trialLayers(trial)) === layer ? view : BEAUTY);
    return { a: of(a), b: of(b) };
  },
};
