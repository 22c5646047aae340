import { z } from 'zod';

/** A part of a file as it was written and read back. */
const provedPartSchema = z.object({
  name: z.string(),
  type: z.enum(['uint', 'half', 'float']),
  /** Bytes that it takes, packed. */
  bytes: z.number(),
  /** RMS error against what was rendered, in decibels of its RMS; null where every bit is the same. */
  decibels: z.number().nullable(),
  /** Half, or a packing that takes floats through half, was asked for, but values beyond 65504 would have become infinite. */
  keptFloat: z.boolean(),
});

const provedTallySchema = z.object({
  parts: z.number(),
  maxError: z.number(),
  decibels: z.number().nullable(),
  addsUp: z.boolean(),
  /** Share of the pixels that do not add up, and how many of these are brighter than the mean; null where all do. */
  failing: z.object({ share: z.number(), bright: z.number() }).nullable(),
});

/** An output as it would be written: packed, read back and held against what was rendered. */
export const proofSchema = z.object({
  bytes: z.number(),
  parts: z.array(provedPartSchema),
  /** Whether what is read back adds up; null where not all parts of a family, or no beauty, are written. */
  group: provedTallySchema.nullable(),
  class: provedTallySchema.nullable(),
  /** What keeps it from adding up, where it does not. */
  cause: z.enum(['packing', 'half']).nullable(),
});
export type Proof = z.infer<typeof proofSchema>;
