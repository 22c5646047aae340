'use client';

import { useEffect, useState } from 'react';
import type { Histogram } from '@/render/film-protocol';
import { Plain } from '../parts/controls';
import { useDesk } from '../state/desk-store';
import { useSession } from '../state/session';

/** Shares of pixels at which a picture is as good as black, or as good as white. */
const BLACK = 0.97;
const WHITE = 0.8;

/** Says so when the live picture is nearly black or nearly all beyond white, and leads to why. */
export function DarkHint() {
  const { client, status, sceneExposure } = useSession();
  const desk = useDesk();
  const [kind, setKind] = useState<'black' | 'beyond white' | null>(null);
  const live = desk.a.kind === 'live' && desk.live;
  const settled = status?.state === 'done' || (status?.samples ?? 0) >= 4;
  const key = `${status?.changes} ${settled}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key tells when there is another picture
  useEffect(() => {
    if (!live || !settled) {
      setKind(null);
      return;
    }
    let gone = false;
    client
      .measure<Histogram | null>({ type: 'measure', what: 'histogram', exposure: sceneExposure * 2 ** desk.viewStops })
      .then((h) => {
        if (!gone) setKind(!h ? null : h.black > BLACK ? 'black' : h.clipped > WHITE ? 'beyond white' : null);
      })
      .catch(() => {});
    return () => {
      gone = true;
    };
  }, [client, live, key, sceneExposure, desk.viewStops]);
  if (!kind || (desk.view === 'setup' && desk.part === 'why')) return null;
  return (
    <div className="absolute inset-x-0 bottom-3 flex justify-center" role="status" data-testid="dark-hint">
      <span className="flex items-center gap-3 bg-pit/90 py-1.5 pr-1.5 pl-3">
        The picture is nearly all {kind}.<Plain onClick={() => desk.set({ view: 'setup', part: 'why' })}>Why?</Plain>
      </span>
    </div>
  );
}
