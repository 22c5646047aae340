import { create } from 'zustand';

interface Player {
  /** Frames of which a picture is kept, ascending, and those that are kept by light groups. */
  kept: number[];
  parted: number[];
  playing: boolean;
  /** The frame on the screen while playing. */
  frame: number | null;
  gathering: { done: number; of: number; startedAt: number; stop: () => void } | null;
}

/** Kept pictures of frames, and whether they are being played. */
export const usePlayer = create<Player>(() => ({ kept: [], parted: [], playing: false, frame: null, gathering: null }));

/** Whether the frames of a run play, and which of its pictures. */
export const usePlaying = create<{ on: boolean; picture: number }>(() => ({ on: false, picture: 0 }));
