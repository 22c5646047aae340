'use client';

import { create } from 'zustand';
import type { Prediction } from '@/contract/terms';
import { settingAt, settingLabel } from '@/core/recipe';
import { clock } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { useCure } from '../../state/cure-store';
import { useGoverning } from '../../state/figures';
import { useReady } from '../../state/live-store';
import { useRecipe } from '../../state/recipe-store';
import { useTimed } from '../../state/trials-store';
import { outlookOf } from './consequences';
import { useSearch } from './use-search';

/** The row under the cursor or with the focus. */
export const useLookedAt = create<{ path: string | null; set: (path: string | null) => void }>((set) => ({
  path: null,
  set: (path) => set({ path }),
}));

function One({ label, p }: { label: string; p: Prediction }) {
  const { noise, seconds } = p;
  const spread = noise.high - noise.low > 0.005;
  return (
    <span className="num whitespace-nowrap">
      <span className="inline-block w-6 font-semibold text-ink">{label}</span> {noise.value.toFixed(2)} %
      {spread && (
        <span className="text-dim">
          {' '}
          ({noise.low.toFixed(2)}–{noise.high.toFixed(2)})
        </span>
      )}{' '}
      in {clock(seconds.value)}
    </span>
  );
}

/** What doubling and halving the row looked at is predicted to do. */
export function OutlookStrip() {
  const { figures } = useGoverning();
  const path = useLookedAt((s) => s.path);
  const recipe = useRecipe((s) => s.recipe)!;
  const { answer, ask } = useSearch();
  const step = useCure((s) => s.step);
  const ready = useReady();
  const timed = useTimed();
  const value = path === null ? null : settingAt(recipe, path);
  const outlook = path === null ? null : outlookOf(path, value, answer, figures);
  return (
    <div
      className="flex h-[58px] shrink-0 flex-col justify-center leading-[17px] border-t border-line px-3.5 text-[12px] text-soft"
      data-testid="outlook"
    >
      {outlook ? (
        <>
          <span className="whitespace-nowrap text-dim">
            {settingLabel(path!)} ·{' '}
            {outlook.by === 'pilots' ? 'predicted from patches' : 'bounds by the shares measured in A'}
          </span>
          <One label="×2" p={outlook.twice} />
          {outlook.half && <One label="×½" p={outlook.half} />}
        </>
      ) : (
        <span className="flex items-center gap-2 text-dim">
          <span className="flex-1">Rest on a row to see what doubling or halving it does.</span>
          {!answer && (
            <Tip text="Runs short renders on patches of this picture, which tell what each count really cures and costs; till then rows tell the bounds that the shares set.">
              <Word disabled={step !== null || !ready || timed} onClick={() => void ask(null)}>
                measure
              </Word>
            </Tip>
          )}
        </span>
      )}
    </div>
  );
}
