import { create } from 'zustand';
import type { ProbeValue } from '@/render/film-protocol';

interface Probe {
  a: ProbeValue | null;
  b: ProbeValue | null;
  set: (p: { a: ProbeValue | null; b: ProbeValue | null }) => void;
}

/** The values under the cursor. */
export const useProbe = create<Probe>((set) => ({ a: null, b: null, set }));
