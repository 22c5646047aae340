import { Space } from '../../space/space';
import { useDesk } from '../../state/desk-store';
import type { ViewEntry } from '../entry';
import { aimChosen, copyChosen, removeChosen, snapChosen } from './actions';
import { BrightestMark } from './brightest-mark';
import { Guides } from './guides';
import { SetupPanel } from './setup-panel';

/** Guides and the mark of what is brightest, in the picture. */
function Over({ aspect }: { aspect: number }) {
  return (
    <>
      <Guides aspect={aspect} />
      <BrightestMark />
    </>
  );
}

/** Place, light, expose and surface a shot. */
export const SETUP: ViewEntry = {
  name: 'setup',
  label: 'Set-up',
  key: '1',
  tip: 'Bring a scene in, place and match lights, expose, give surfaces, ask why it is dark.',
  Panel: SetupPanel,
  Below: Space,
  Over,
  chooses: true,
  commands: [
    { name: 'Remove what is chosen', keys: 'del', shown: 'Del', run: removeChosen },
    { name: 'Copy what is chosen', keys: 'mod+d', shown: 'Ctrl D', run: () => copyChosen(false) },
    { name: 'Aim what is chosen at a click', run: aimChosen },
    { name: 'Put what is chosen onto a surface', run: snapChosen },
    { name: 'Why does it look like this?', run: () => useDesk.getState().set({ view: 'setup', part: 'why' }) },
  ],
};
