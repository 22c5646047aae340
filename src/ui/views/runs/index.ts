import { togglePlaying } from '../../state/frames-playing';
import { BEAUTY } from '../../state/showing';
import type { ViewEntry } from '../entry';
import { FramesFace } from './frames-face';
import { MachinesFace } from './machines-face';
import { RunsPanel } from './runs-panel';
import { SheetFace } from './sheet-face';

/** Frames delivered as files, checked before they start, on all workers there are. */
export const RUNS: ViewEntry = {
  name: 'runs',
  label: 'Runs',
  key: '6',
  tip: 'Frames delivered as files: checked before they start, rendered by all workers there are.',
  Panel: RunsPanel,
  faces: [
    {
      name: 'frames',
      label: 'Frames',
      tip: 'Every frame of the run: its state, noise and time; a click shows it in A',
      Body: FramesFace,
    },
    {
      name: 'sheet',
      label: 'Sheet',
      tip: 'Every layer of every file of a frame, packed and read back',
      Body: SheetFace,
    },
    {
      name: 'machines',
      label: 'Machines',
      tip: 'Workers there are: what each does, how fast it is, and how another machine joins',
      Body: MachinesFace,
    },
  ],
  shows: () => ({ a: BEAUTY, b: BEAUTY }),
  commands: [{ name: 'Play the frames of the run', keys: 'p', shown: 'P', run: togglePlaying }],
};
