import { z } from 'zod';

const finite = z.number();
const point = z.tuple([finite, finite]);
const name = z.string().min(1).max(120);

const item = { invert: z.boolean().default(false), how: z.enum(['with', 'without', 'within']).default('with') };
const shape = { ...item, feather: finite.min(0).max(4).default(0) };
const maskItemSchema = z.discriminatedUnion('kind', [
  /** Objects of a film by name. */
  z.strictObject({ kind: z.literal('picked'), ...item, film: name, names: z.array(name) }),
  /** Data of a film through a ramp: 0 up to `low`, 1 from `high` on. */
  z.strictObject({
    kind: z.literal('ramp'),
    ...item,
    film: name,
    layer: name,
    channel: name,
    low: finite,
    high: finite,
  }),
  z.strictObject({
    kind: z.literal('ellipse'),
    ...shape,
    center: point,
    radius: point,
    turnDegrees: finite.default(0),
  }),
  z.strictObject({ kind: z.literal('polygon'), ...shape, points: z.array(point).min(3).max(400) }),
  /** From 0 at one place to 1 at another. */
  z.strictObject({ kind: z.literal('gradient'), ...item, from: point, to: point }),
]);
type MaskItem = z.infer<typeof maskItemSchema>;
export type MaskHow = MaskItem['how'];
export type MaskData = Extract<MaskItem, { kind: 'picked' | 'ramp' }>;
export type MaskShape = Extract<MaskItem, { kind: 'ellipse' | 'polygon' | 'gradient' }>;

/** A mask: items that join one after another. */
export const maskSchema = z.strictObject({
  of: z.array(maskItemSchema).min(1).max(60),
  invert: z.boolean().default(false),
});
export type StackMask = z.infer<typeof maskSchema>;
