import { z } from 'zod';
import { finite, name } from './terms';

const size = finite.positive().max(100000);

/**
 * A shape made from its measures rather than kept as triangles. All stand about their origin: solids are centred on it,
 * but a backdrop's floor begins at it. Metres.
 */
export const formSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('box'), name, width: size, height: size, depth: size }),
  z.strictObject({
    kind: z.literal('ball'),
    name,
    radius: size,
    segments: z.number().int().min(8).max(256).default(48),
  }),
  z.strictObject({
    kind: z.literal('cylinder'),
    name,
    radius: size,
    height: size,
    segments: z.number().int().min(8).max(256).default(48),
  }),
  z.strictObject({ kind: z.literal('plane'), name, width: size, depth: size }),
  z.strictObject({
    kind: z.literal('backdrop'),
    name,
    width: size,
    /** Floor in front of the bend. */
    depth: size,
    height: size,
    /** Of the bend between floor and wall. */
    radius: size,
  }),
]);
export type Form = z.infer<typeof formSchema>;
