import { create } from 'zustand';
import type { ProbeValue } from '@/render/page/probe';

interface Probe {
  a: ProbeValue | null;
  b: ProbeValue | null;
  /** Metres along the camera's axis under the cursor, where they have been asked for. */
  depth: number | null;
  /** Where the cursor was last, in fractions of the frame; kept when it leaves the picture. */
  at: { x: number; y: number } | null;
  set: (p: { a: ProbeValue | null; b: ProbeValue | null; depth: number | null }) => void;
}

/** The values under the cursor. */
export const useProbe = create<Probe>((set) => ({ a: null, b: null, depth: null, at: null, set }));
