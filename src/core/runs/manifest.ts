import { z } from 'zod';
import { variantSchema } from '../outputs';

export const MANIFEST_NAME = 'manifest.json';

const hash = z.string().regex(/^[0-9a-f]{64}$/);
const named = z.string().regex(/^[A-Za-z0-9._-]{1,200}$/);

/** A delivered file: its bytes depend on its picture alone, so equal hashes mean equal pictures. */
const fileSchema = z.strictObject({
  name: named,
  output: z.string(),
  frame: z.number().int(),
  layers: z.array(z.string()),
  bytes: z.number().int().nonnegative(),
  sha256: hash,
});
export type ManifestFile = z.infer<typeof fileSchema>;

const frameSchema = z.strictObject({
  frame: z.number().int(),
  /** What the picture differs in from the shot's; null for that. */
  variant: variantSchema.nullable(),
  /** Noise in percent of display white; null where it was not measured. */
  noise: z.number().nullable(),
  /** Of tracing, by the clock. */
  seconds: z.number(),
  machine: z.string(),
  rendered: z.string(),
});

/** What lies beside delivered files: what they were rendered from, and by which each can be checked. */
export const manifestSchema = z.strictObject({
  schema: z.literal(1),
  program: z.string(),
  shot: z.string(),
  run: z.number().int().nullable(),
  frames: z.string(),
  camera: z.string(),
  /** SHA-256 of the scene's document. */
  scene: hash,
  recipe: z.unknown(),
  outputs: z.unknown(),
  /** Whether all that was asked for is here. */
  complete: z.boolean(),
  rendered: z.array(frameSchema),
  files: z.array(fileSchema),
});
export type Manifest = z.infer<typeof manifestSchema>;

/** What is wrong with delivered files: in words, by the name of the file. */
export interface FileFault {
  name: string;
  fault: string;
}

/** Holds files against their manifest; `found` tells bytes and hash of a file, null for one that is not there. */
export async function verifyFiles(
  { files }: Pick<Manifest, 'files'>,
  found: (name: string) => Promise<{ bytes: number; sha256: string } | null>,
): Promise<FileFault[]> {
  const faults: FileFault[] = [];
  for (const { name, bytes, sha256 } of files) {
    const own = await found(name);
    if (!own) faults.push({ name, fault: 'it is not there' });
    else if (own.bytes !== bytes) faults.push({ name, fault: `it has ${own.bytes} bytes, not ${bytes}` });
    else if (own.sha256 !== sha256) faults.push({ name, fault: 'its content is not what was delivered' });
  }
  return faults;
}
