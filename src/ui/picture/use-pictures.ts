'use client';

import { type RefObject, useEffect, useState } from 'react';
import type { Picture } from '@/render/page/client';
import type { Legend } from '@/render/views/painting';
import type { Placement } from '@/render/views/place';
import type { Drawn } from '../state/mirror';
import { isWide } from '../state/wide';

/** Where a slot's pixels lie and how to read them. */
export interface SlotState {
  place: Placement | null;
  legend: Legend | null;
  absent: string | null;
}

export interface Canvases {
  A: RefObject<HTMLCanvasElement | null>;
  B: RefObject<HTMLCanvasElement | null>;
  /** The last whole frame of A, which stays visible under a region. */
  under: RefObject<HTMLCanvasElement | null>;
}

/** Whoever tells what is to be drawn: the film worker's client, or another page. */
export interface Teller {
  on: <T extends Drawn['type']>(type: T, hear: (drawn: Extract<Drawn, { type: T }>) => void) => () => void;
}

const EMPTY: SlotState = { place: null, legend: null, absent: null };

const same = (a: Placement | null, b: Placement) =>
  a !== null && (Object.keys(b) as (keyof Placement)[]).every((k) => a[k] === b[k]);

function draw(canvas: HTMLCanvasElement | null, p: Picture): void {
  if (!canvas) return;
  if (canvas.width !== p.width || canvas.height !== p.height) {
    canvas.width = p.width;
    canvas.height = p.height;
  }
  // What a canvas can show is settled when it is drawn on first.
  const context = canvas.getContext('2d', { colorSpace: isWide() ? 'display-p3' : 'srgb' });
  const pixels = new Uint8ClampedArray(p.pixels);
  context?.putImageData(new ImageData(pixels, p.width, p.height, { colorSpace: p.space ?? 'srgb' }), 0, 0);
}

/** Draws what the film worker sends straight onto the canvases; only a change of place or legend renders anew. */
export function usePictures(client: Teller, canvases: Canvases): { A: SlotState; B: SlotState } {
  const [a, setA] = useState<SlotState>(EMPTY);
  const [b, setB] = useState<SlotState>(EMPTY);
  useEffect(() => {
    const offPicture = client.on('picture', (p) => {
      const set = p.slot === 'A' ? setA : setB;
      draw(canvases[p.slot].current, p);
      if (p.slot === 'A' && p.place.w === p.place.width && p.place.h === p.place.height)
        draw(canvases.under.current, p);
      set((s) =>
        same(s.place, p.place) && s.absent === null && JSON.stringify(s.legend) === JSON.stringify(p.legend)
          ? s
          : { place: p.place, legend: p.legend, absent: null },
      );
    });
    const offAbsent = client.on('absent', ({ slot, reason }) =>
      (slot === 'A' ? setA : setB)((s) => ({ ...s, absent: reason })),
    );
    return () => {
      offPicture();
      offAbsent();
    };
  }, [client, canvases]);
  return { A: a, B: b };
}
