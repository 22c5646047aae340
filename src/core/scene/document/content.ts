import { z } from 'zod';
import { pictureFormat } from './geometry';
import { name } from './terms';

const hash = z.string().regex(/^[0-9a-f]{64}$/, 'must be a SHA-256');

/** A picture kept beside the geometry, under its own hash: rows from the top, channels interleaved. */
export const contentSchema = z.strictObject({
  name,
  /** `texture`: for materials and displacement; `environment`: linear light all around; `reference`: to look at; `layers`: an OpenEXR file as it is, for stacks. */
  use: z.enum(['texture', 'environment', 'reference', 'layers']),
  hash,
  bytes: z.number().int().min(1).max(2_000_000_000),
  width: z.number().int().min(1).max(16384),
  height: z.number().int().min(1).max(16384),
  channels: z.number().int().min(1).max(4),
  format: pictureFormat,
  /** How its alpha relates to its colours; absent where it has none, or where its file did not say. */
  alpha: z.enum(['straight', 'premultiplied']).optional(),
  /** Primaries and white that its file tells: x and y of red, green, blue and white; absent where it tells none. */
  primaries: z.array(z.number().min(-2).max(2)).length(8).optional(),
  /** Of a file of layers: their names and channels, the things that its mask tells apart, and the factor that brings its light to display white. */
  layers: z
    .array(z.strictObject({ name: z.string().max(255), channels: z.array(z.string().max(255)).max(1024) }))
    .max(4096)
    .optional(),
  things: z.array(z.string().max(1024)).max(100_000).optional(),
  scale: z.number().positive().optional(),
});
export type Content = z.infer<typeof contentSchema>;

/** Numbered stills behind the picture. */
export const plateSchema = z.strictObject({
  name,
  /** Stills by their number, as `contents` of use `reference`. */
  stills: z
    .array(z.strictObject({ number: z.number().int(), picture: name }))
    .min(1)
    .max(10000),
  /** Frame at which the still numbered 0 would lie. */
  offset: z.number().int().default(0),
  /** Shown where a number is missing: the still before it, or nothing. */
  gaps: z.enum(['hold', 'empty']).default('hold'),
});
export type Plate = z.infer<typeof plateSchema>;

/** Name of the still of a plate at a frame; null where there is none. */
export function stillAt(plate: Plate, frame: number): string | null {
  const number = frame - plate.offset;
  const sorted = [...plate.stills].sort((a, b) => a.number - b.number);
  const exact = sorted.find((s) => s.number === number);
  if (exact) return exact.picture;
  if (plate.gaps === 'empty') return null;
  const before = sorted.filter((s) => s.number < number).at(-1);
  return (before ?? sorted[0]).picture;
}
