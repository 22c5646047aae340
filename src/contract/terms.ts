import { z } from 'zod';

/** Pieces that several messages share. */

/** An identifier as the server gives them: a UUID in lower case. */
export const identifier = z
  .string()
  .regex(
    /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/,
    'must be an identifier as the server gave it',
  );

const figure = z.number().nonnegative();
/** A value with its 95 % interval. */
const interval = z.strictObject({ value: figure, low: figure, high: figure });
/** Noise in percent of display white and seconds at speed 1, as predicted. */
export const predictionSchema = z.strictObject({
  noise: interval,
  seconds: interval,
  /** Of the denoised picture: all that is wrong in it, and what noise is left. */
  denoised: z.strictObject({ error: interval, residual: interval }).optional(),
});
export type Prediction = z.infer<typeof predictionSchema>;

export const shotName = z.string().trim().min(1).max(120);
