import type { Trial } from '@/contract/trial';
import { isData } from '@/core/film';
import type { View } from '@/render/views/show';
import { BEAUTY } from '../../state/showing';
import { shownLayer, trialLayers } from '../../state/sources';
import type { ViewEntry } from '../entry';
import { LayerSheet } from './layer-sheet';
import { SplitPanel } from './split-panel';

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
  ],
  shows: ({ desk: { layer, range }, a, b }) => {
    const view: View = isData(layer) ? { kind: 'data', layer, range } : { kind: 'color', layer };
    const of = (trial: Trial | null) => (shownLayer(layer, trial && trialLayers(trial)) === layer ? view : BEAUTY);
    return { a: of(a), b: of(b) };
  },
};
