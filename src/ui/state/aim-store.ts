import { create } from 'zustand';
import type { Seen } from '@/render/questions/see';

/** What the next click into the picture is for. */
export interface Aim {
  /** Said over the picture. */
  words: string;
  /** Which control asked, so that it shows as on. */
  by: string;
  /** Gets what lies there; returning true keeps the aim for more clicks. */
  take: (seen: Seen, at: { x: number; y: number }) => boolean | undefined;
}

interface AimState {
  aim: Aim | null;
  begin: (aim: Aim) => void;
  end: () => void;
}

/** The picture as a place to point at: focus, colours, exceptions of clay, paths. */
export const useAim = create<AimState>((set, get) => ({
  aim: null,
  begin: (aim) => set({ aim: get().aim?.by === aim.by ? null : aim }),
  end: () => set({ aim: null }),
}));
