'use client';

import { Crosshair } from 'lucide-react';
import { toast } from 'sonner';
import type { Path } from '@/core/comp';
import { Word } from '../../parts/controls';
import { useAim } from '../../state/aim-store';
import { useClient } from '../../state/client';
import type { Stacked } from '../../state/stacking';
import { tell } from '../../state/tell';
import { actedOn } from './acted-on';
import { pathText, put } from './actions';

const WORDS = {
  white: 'Click what should be white or grey',
  focus: 'Click what should be sharp',
} as const;

/** Takes a white point or a distance from the picture. */
export function PickFromPicture({ stacked, does, base }: { stacked: Stacked; does: 'white' | 'focus'; base: Path }) {
  const client = useClient();
  const { aim, begin } = useAim();
  const by = `comp ${pathText(base)}`;
  const { over, frame } = stacked;
  const take = ({ x, y }: { x: number; y: number }) => {
    client
      .ask('stackPixel', { over: does === 'white' ? { ...over, stack: actedOn(over.stack, base) } : over, x, y })
      .then(({ rgb, depth }) => {
        if (does === 'focus') {
          if (depth === null || !Number.isFinite(depth)) throw new Error('nothing is there that could be sharp');
          put('focus distance', [...base, 'metres'], Number(depth.toPrecision(5)), frame, false);
          toast.success(`Sharp at ${depth.toPrecision(4)} m.`);
          return;
        }
        if (!rgb?.every((v) => v > 0)) throw new Error('it is too dark there to tell a white from');
        put(
          'white point',
          [...base, 'rgb'],
          rgb.map((v) => Number(Math.min(1000, v).toPrecision(6))),
          frame,
          false,
        );
      })
      .catch(tell);
  };
  return (
    <Word
      on={aim?.by === by}
      className="flex items-center gap-1"
      onClick={() =>
        begin({
          by,
          words: WORDS[does],
          take: (_seen, at) => {
            take(at);
            return undefined;
          },
        })
      }
    >
      <Crosshair size={12} aria-hidden="true" /> take it from the picture
    </Word>
  );
}
