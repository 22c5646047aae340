import { createHash } from 'node:crypto';
import { canonicalJson } from '@/core/recipe';

/** SHA-256 of the parts one after another, in lower-case hexadecimal. */
export function sha256(...parts: (Uint8Array | string)[]): string {
  const hash = createHash('sha256');
  for (const p of parts) hash.update(p);
  return hash.digest('hex');
}

const hashes = new WeakMap<object, string>();

/** SHA-256 of a document's canonical JSON, made once for as long as the document is there; it must not be written to. */
export function documentHash(document: object): string {
  const hash = hashes.get(document) ?? sha256(canonicalJson(document));
  hashes.set(document, hash);
  return hash;
}
