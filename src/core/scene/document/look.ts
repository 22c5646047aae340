import { z } from 'zod';
import { finite, unit } from './terms';

/** The display transform's settings; the defaults are the identity but for a soft shoulder. */
export const lookSchema = z.strictObject({
  /** Colour of light that shows as white. */
  whiteKelvin: finite.min(2000).max(20000).nullable().default(null),
  /** Display value from which highlights roll off; 1 clips them. */
  shoulder: finite.min(0.1).max(1).default(0.6),
  /** Slope about middle grey: above 1 more contrast. */
  contrast: finite.min(0.25).max(4).default(1),
  /** Points of a curve on display values, between its ends (0, 0) and (1, 1). */
  curve: z
    .array(z.tuple([unit, unit]))
    .max(8)
    .default([]),
});
export type Look = z.infer<typeof lookSchema>;

/** The look of a shot that has been given none. */
export const PLAIN_LOOK: Look = lookSchema.parse({});
