import { asRenderedIn } from '../../state/as-rendered';
import { BEAUTY, throughStack } from '../../state/showing';
import type { ViewEntry } from '../entry';
import { CompPanel } from './comp-panel';
import { KeysFace } from './keys-face';
import { OverPicture } from './over-picture';
import { ScopesFace } from './scopes-face';
import { TAKES } from './takes';

/** The parts over a plate, in linear light, to a finished picture. */
export const COMP: ViewEntry = {
  name: 'comp',
  label: 'Comp',
  key: '5',
  tip: 'The parts over a plate, in linear light, to a finished picture.',
  Panel: CompPanel,
  tells: ['noise'],
  faces: [
    { name: 'keys', label: 'Keys', tip: 'Numbers of the stack that are set at frames', Body: KeysFace },
    {
      name: 'scopes',
      label: 'Scopes',
      tip: 'Waveform and histogram of what the stack makes',
      Body: ScopesFace,
    },
  ],
  shows: (looking) => ({ a: throughStack(looking), b: BEAUTY }),
  takes: TAKES,
  Over: OverPicture,
  commands: [{ name: 'Without the stack, while held', ...asRenderedIn('comp') }],
};
