import { create } from 'zustand';

interface ShotState {
  id: string;
  name: string;
  /** The trial that others are compared with. */
  baseline: string | null;
  /** Number of the scene revision that the draft stands on. */
  revision: number;
  /** False while events do not arrive: the server or database is away. */
  connected: boolean;
}

/** The shot that is open. */
export const useShot = create<ShotState>(() => ({ id: '', name: '', baseline: null, revision: 0, connected: true }));
