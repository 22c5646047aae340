import { BEAUTY } from '../../state/showing';
import type { ViewEntry } from '../entry';
import { BalancePanel } from './balance-panel';

/** Relight a finished film by its light groups. */
export const BALANCE: ViewEntry = {
  name: 'balance',
  label: 'Balance',
  key: '4',
  tip: 'Relight a finished film by its light groups.',
  Panel: BalancePanel,
  tells: ['noise'],
  shows: ({ desk, groups, a, b }) => {
    const relit = (trial: typeof a) =>
      trial && desk.balances[trial.id]
        ? { kind: 'relit' as const, groups: trial.spec?.groups ?? [...groups], balance: desk.balances[trial.id] }
        : BEAUTY;
    return { a: relit(a), b: relit(b) };
  },
};
