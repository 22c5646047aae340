'use client';

import { Tip, Word } from '../parts/controls';
import { type DrawerFace, useDesk } from '../state/desk-store';
import { BudgetChart } from './budget';
import { DepthChart } from './depth';
import { ErrorsChart } from './errors';
import { NoiseTime } from './noise-time';
import { SourcesChart } from './sources';

const FACES: { face: DrawerFace; label: string; tip: string }[] = [
  {
    face: 'map',
    label: 'Noise and time',
    tip: 'Every trial by its time at speed 1 and its noise; slanting lines join equal efficiency, the line through dots those that no other beats. Hollow: predicted.',
  },
  {
    face: 'depth',
    label: 'Ray depth',
    tip: 'The picture at every limit of ray depth, from one film that keeps a bounce ledger.',
  },
  {
    face: 'sources',
    label: 'Noise sources',
    tip: 'What the noise of A is made of, in the frame or the region drawn: light by path class, bounces, objects; and what cures it for the least time.',
  },
  {
    face: 'errors',
    label: 'A and B',
    tip: 'A beside B: noise, time, efficiency, and how far A is from B taken as the truth.',
  },
  {
    face: 'budget',
    label: 'Budget',
    tip: 'How long the whole sequence takes with this recipe, and what noise can be had by a time of day.',
  },
];

/** The right end of the drawer, with its faces. */
export function Drawer() {
  const { face, set } = useDesk();
  return (
    <section aria-label="charts" className="flex w-[372px] shrink-0 flex-col">
      <header className="flex items-center gap-1 px-1.5 pt-1.5">
        {FACES.map((f) => (
          <Tip key={f.face} text={f.tip}>
            <Word on={face === f.face} onClick={() => set({ face: f.face })}>
              {f.label}
            </Word>
          </Tip>
        ))}
      </header>
      {face === 'map' && <NoiseTime />}
      {face === 'depth' && <DepthChart />}
      {face === 'sources' && <SourcesChart />}
      {face === 'errors' && <ErrorsChart />}
      {face === 'budget' && <BudgetChart />}
    </section>
  );
}
