import { lightGroups } from '@/core/scene';
import type { View } from '@/render/views/show';
import { asRenderedIn } from '../../state/as-rendered';
import { useDesk } from '../../state/desk-store';
import { useMoods } from '../../state/moods-store';
import { useScene } from '../../state/scene-store';
import { BEAUTY, type Looking } from '../../state/showing';
import type { ViewEntry } from '../entry';
import { stepAlone } from './actions';
import { BalancePanel } from './balance-panel';
import { MoodsFace } from './moods-face';

const relit = (mix: Looking['mixes']['a']): View =>
  mix ? { kind: 'relit', groups: [...mix.groups], factors: mix.factors } : BEAUTY;

const nameOf = (id: string) => useMoods.getState().moods?.list.find((m) => m.id === id)?.name ?? 'as rendered';
const isOpen = () => useDesk.getState().view === 'balance';
const step = (by: 1 | -1) => {
  const { document } = useScene.getState();
  if (document && isOpen()) stepAlone(lightGroups(document), by);
};

/** Relight the live picture or a finished film by its light groups. */
export const BALANCE: ViewEntry = {
  name: 'balance',
  label: 'Balance',
  key: '4',
  tip: 'Relight the live picture or a finished film by its light groups.',
  Panel: BalancePanel,
  tells: ['noise'],
  faces: [
    {
      name: 'moods',
      label: 'Moods',
      tip: 'The shot’s moods beside each other over what A shows, with their noise',
      Body: MoodsFace,
    },
  ],
  saysOfB: ({ moodB, overlay }) => {
    if (overlay !== 'none' || moodB === null) return null;
    return moodB === '' ? 'as rendered' : nameOf(moodB);
  },
  shows: ({ mixes: { a, b } }) => ({ a: relit(a), b: relit(b) }),
  commands: [
    { name: 'Next light group alone', keys: 'period', shown: '.', run: () => step(1) },
    { name: 'Light group before alone', keys: 'comma', shown: ',', run: () => step(-1) },
    { name: 'As rendered, while held', ...asRenderedIn('balance') },
  ],
};
