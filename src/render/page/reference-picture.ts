import type { FilmLayers } from '@/core/film';
import { decodeSrgb, encodeSrgb, whiteOf } from '@/core/image';
import { type Content, pictureAt } from '@/core/scene';
import type { Rgb } from '@/core/stats';
import type { Shown } from '../views/overlap';

const references = new Map<string, Promise<Shown>>();

/** A picture of the scene's contents as a film with a beauty; bytes and words are decoded from sRGB. */
export function referencePicture(c: Content, fetchContent: (hash: string) => Promise<Uint8Array>): Promise<Shown> {
  const known = references.get(c.hash);
  if (known) return known;
  const made = fetchContent(c.hash).then((bytes): Shown => {
    const { width, height, channels, values } = pictureAt(bytes, { ...c, offset: 0 });
    const white = whiteOf(values);
    const encoded = white !== 1;
    const planes = [0, 1, 2].map((k) => {
      const from = channels < 3 ? 0 : k;
      return Float32Array.from({ length: width * height }, (_, i) => {
        const v = values[i * channels + from];
        return encoded ? decodeSrgb(v / white) : v;
      });
    });
    return {
      film: {
        width,
        height,
        layers: new Map([['beauty', { name: 'beauty', channels: ['R', 'G', 'B'], planes, kind: 'color' }]]),
      },
      place: { width, height, x: 0, y: 0, w: width, h: height },
      encoded,
    };
  });
  references.set(c.hash, made);
  made.catch(() => references.delete(c.hash));
  return made;
}

/** A slot's beauty as light; a picture made for the screen as the light that shows so at this exposure. */
export function linearPixels({ film, encoded }: Shown, scale: number): Rgb {
  const [r, g, b] = film.layers.get('beauty')!.planes;
  return encoded ? ([r, g, b].map((p) => p.map((v) => v / scale)) as unknown as Rgb) : [r, g, b];
}

/** Screen pixels of a picture made for the screen. */
export function encodedPixels(film: FilmLayers): Uint8ClampedArray<ArrayBuffer> {
  const planes = film.layers.get('beauty')!.planes;
  const out = new Uint8ClampedArray(planes[0].length * 4);
  for (let i = 0; i < planes[0].length; i++) {
    for (let c = 0; c < 3; c++) out[i * 4 + c] = encodeSrgb(planes[c][i]) * 255;
    out[i * 4 + 3] = 255;
  }
  return out;
}
