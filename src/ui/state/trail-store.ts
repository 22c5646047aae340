import { create } from 'zustand';
import type { TrailStep } from '@/render/pool/inspector';

interface TrailState {
  trails: TrailStep[][] | null;
  /** Which of them is read. */
  shown: number;
  set: (change: { trails?: TrailStep[][] | null; shown?: number }) => void;
}

/** The paths of the pixel picked last. */
export const useTrails = create<TrailState>((set) => ({ trails: null, shown: 0, set: (change) => set(change) }));
