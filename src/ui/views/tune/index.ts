import { BEAUTY, throughStack } from '../../state/showing';
import type { ViewEntry } from '../entry';
import { BudgetChart } from './budget';
import { DenoiseFace } from './denoise';
import { DepthChart } from './depth';
import { ErrorsChart } from './errors';
import { SourcesChart } from './sources';
import { TunePanel } from './tune-panel';

/** The recipe against noise and time. */
export const TUNE: ViewEntry = {
  name: 'tune',
  label: 'Tune',
  key: '2',
  tip: 'Set the recipe, log trials, compare noise and time.',
  Panel: TunePanel,
  tells: ['noise', 'time'],
  faces: [
    {
      name: 'sources',
      label: 'Sources and cures',
      tip: 'What the noise of A or of the region is: its sources, the objects under it, and every cure as it was measured',
      Body: SourcesChart,
    },
    {
      name: 'depth',
      label: 'Ray depth',
      tip: 'What the picture lacks at every limit of ray depth, and the least that is enough',
      Body: DepthChart,
    },
    {
      name: 'errors',
      label: 'A and B',
      tip: 'A and B in figures, and how far A is from B taken as the truth',
      Body: ErrorsChart,
    },
    {
      name: 'denoise',
      label: 'Denoise',
      tip: 'What denoising leaves of the noise of A, what it changed besides, and how much of it is taken',
      Body: DenoiseFace,
    },
    {
      name: 'budget',
      label: 'Budget',
      tip: 'How long all frames take, and what noise they can have by a time of day',
      Body: BudgetChart,
    },
  ],
  shows: (looking) => {
    const { desk, a, ledger } = looking;
    const { depthLimit: limit, depthDifference: difference } = desk;
    const keeps = desk.a.kind === 'live' ? ledger : a !== null && a.recipe.film.ledger !== 'off';
    if (desk.face !== 'depth' || limit === null || !keeps) return { a: throughStack(looking), b: BEAUTY };
    return { a: { kind: 'depth', limit, difference }, b: BEAUTY };
  },
};
