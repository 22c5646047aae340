import { z } from 'zod';
import { name } from './terms';

/** A mesh among the geometry's bytes. */
const meshEntrySchema = z.strictObject({
  name,
  vertices: z.number().int().min(0),
  triangles: z.number().int().min(0),
  /** Bytes from the start of the geometry: positions, normals, texture coordinates where there are any, then indices. */
  offset: z.number().int().min(0),
  uvs: z.boolean().default(false),
});

/** Bytes or 16-bit words, encoded as sRGB where they are colours, or linear 32-bit floats. */
export const pictureFormat = z.enum(['byte', 'word', 'float']);
export type PictureFormat = z.infer<typeof pictureFormat>;

/** A picture among the geometry's bytes, row by row from the top, channels interleaved. */
const pictureEntrySchema = z.strictObject({
  name,
  width: z.number().int().min(1).max(16384),
  height: z.number().int().min(1).max(16384),
  channels: z.number().int().min(1).max(4),
  format: pictureFormat,
  offset: z.number().int().min(0),
});

/** What a document's geometry holds, and its content's hash. */
export const geometrySchema = z.strictObject({
  hash: z.string(),
  bytes: z.number().int(),
  meshes: z.array(meshEntrySchema),
  pictures: z.array(pictureEntrySchema).default([]),
});
export type Geometry = z.infer<typeof geometrySchema>;
export type MeshEntry = z.infer<typeof meshEntrySchema>;
export type PictureEntry = z.infer<typeof pictureEntrySchema>;
