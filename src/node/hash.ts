import { createHash } from 'node:crypto';

/** SHA-256 of the parts one after another, in lower-case hexadecimal. */
export function sha256(...parts: (Uint8Array | string)[]): string {
  const hash = createHash('sha256');
  for (const p of parts) hash.update(p);
  return hash.digest('hex');
}
