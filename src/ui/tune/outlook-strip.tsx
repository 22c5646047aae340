'use client';

import { create } from 'zustand';
import { settingAt, settingLabel } from '@/core/recipe';
import type { Prediction } from '@/render/proposal';
import type { Figures } from '../state/figures';
import { clock } from '../state/format';
import { useRecipe } from '../state/recipe-store';
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
    <span className="num">
      <span className="font-semibold text-ink">{label}</span> {noise.value.toFixed(2)} %
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
export function OutlookStrip({ figures }: { figures: Figures }) {
  const path = useLookedAt((s) => s.path);
  const recipe = useRecipe((s) => s.recipe)!;
  const { answer } = useSearch();
  const value = path === null ? null : settingAt(recipe, path);
  const outlook = path === null ? null : outlookOf(path, value, answer, figures);
  return (
    <div
      className="flex h-[42px] shrink-0 flex-col justify-center border-t border-line px-3.5 text-[12px] text-soft"
      data-testid="outlook"
    >
      {outlook ? (
        <>
          <span className="truncate text-dim">
            {settingLabel(path!)} ·{' '}
            {outlook.by === 'pilots' ? 'predicted from patches' : 'bounds by the shares measured in A'}
          </span>
          <span className="flex gap-4 truncate">
            <One label="×2" p={outlook.twice} />
            {outlook.half && <One label="×½" p={outlook.half} />}
          </span>
        </>
      ) : (
        <span className="text-dim">Rest on a row to see what doubling or halving it does.</span>
      )}
    </div>
  );
}
