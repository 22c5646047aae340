import { decodeSrgb } from '../image';

/** Curves that a display's values carry, each with what undoes it; values beyond 0 to 1 go on by the same formula. */
export const CURVES = {
  sRGB: decodeSrgb,
  'a power of 1/2.2': (v: number) => v ** 2.2,
  'a power of 1/2.4': (v: number) => v ** 2.4,
  // ITU-R BT.709-6, item 1.2.
  'Rec.709’s camera curve': (v: number) => (v < 0.081 ? v / 4.5 : ((v + 0.099) / 1.099) ** (1 / 0.45)),
} as const;
export type Curve = keyof typeof CURVES;

/** A plane with a curve undone. */
export const undone = (curve: Curve, plane: Float32Array): Float32Array =>
  plane.map((v) => (v <= 0 ? v : CURVES[curve](v)));
