import { create } from 'zustand';

interface LadderState {
  /** Whether the form for a new ladder is open. */
  making: boolean;
  /** The sheet that is open: of a ladder's trials, or of chosen ones. */
  sheet: { ladder: string } | { trials: string[] } | null;
}

/** Ladders and contact sheets that are open. */
export const useLadder = create<LadderState>(() => ({ making: false, sheet: null }));
