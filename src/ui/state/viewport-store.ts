import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { patientStorage } from './patient-storage';

/** Where A and B part: a point in fractions of the picture, and the degrees by which the upright line is turned clockwise. */
export interface Wipe {
  x: number;
  y: number;
  degrees: number;
}

interface Viewport {
  /** Screen pixels per frame pixel, null = fitted; the offset of the frame's centre from the picture's. */
  zoom: number | null;
  pan: { x: number; y: number };
  /** Where A and B part under the wipe. */
  parting: Wipe;
}

export const UPRIGHT: Wipe = { x: 0.5, y: 0.5, degrees: 0 };

/** What of the picture is in sight: changes with every move of a drag. */
export const useViewport = create<Viewport>()(
  persist((): Viewport => ({ zoom: null, pan: { x: 0, y: 0 }, parting: UPRIGHT }), {
    name: 'lantern-viewport',
    storage: patientStorage<Viewport>(),
  }),
);
