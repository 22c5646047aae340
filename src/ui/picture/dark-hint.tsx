'use client';

import { Plain } from '../parts/controls';
import { useAsk } from '../state/ask';
import { useDesk } from '../state/desk-store';
import { useLive } from '../state/live-store';
import { useSceneExposure } from '../state/scene-now';
import { useVariantOutput } from '../state/variants';

/** Shares of pixels at which a picture is as good as black, or as good as white. */
const BLACK = 0.97;
const WHITE = 0.8;

/** Says so when the live picture is nearly black or nearly all beyond white, and leads to why. */
export function DarkHint() {
  const view = useDesk((s) => s.view);
  const part = useDesk((s) => s.part);
  const live = useDesk((s) => s.a.kind === 'live' && s.live);
  const exposure = useSceneExposure() * 2 ** useDesk((s) => s.viewStops);
  const changes = useLive((s) => s.status?.changes ?? 0);
  const settled = useLive((s) => s.status?.state === 'done' || (s.status?.samples ?? 0) >= 4);
  // The panel tells what a picture of its own has in it.
  const own = useVariantOutput();
  const { answer: h } = useAsk('histogram', live && settled ? { exposure } : null, { of: changes });
  const kind = !h ? null : h.black > BLACK ? 'black' : h.clipped > WHITE ? 'beyond white' : null;
  if (!kind || own || !live || !settled || (view === 'setup' && part === 'why')) return null;
  return (
    <div className="absolute inset-x-0 bottom-3 flex justify-center" role="status" data-testid="dark-hint">
      <span className="flex items-center gap-3 bg-pit/90 py-1.5 pr-1.5 pl-3">
        The picture is nearly all {kind}.
        <Plain onClick={() => useDesk.getState().set({ view: 'setup', part: 'why' })}>Why?</Plain>
      </span>
    </div>
  );
}
