import { createHash } from 'node:crypto';
import type { Film } from '@/core/film';
import { PLANE_BYTES } from '@/core/kernel';

/** SHA-256 of the float planes and sample counts of a film, or of the bands that make one, from the top. */
export class FilmDigest {
  private readonly hash = createHash('sha256');
  private readonly samples: Int32Array[] = [];

  add(film: Film): void {
    const planeBytes = film.spec.planes.count * PLANE_BYTES;
    for (let t = 0; t < film.tileCount; t++) this.hash.update(film.record(t).subarray(0, planeBytes));
    this.samples.push(film.samples.slice());
  }

  hex(): string {
    for (const n of this.samples) this.hash.update(new Uint8Array(n.buffer));
    return this.hash.digest('hex');
  }
}

/** The digest of one film: the same for any thread count. */
export function filmHash(film: Film): string {
  const digest = new FilmDigest();
  digest.add(film);
  return digest.hex();
}
