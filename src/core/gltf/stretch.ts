import { whiteOf } from '../image';
import type { Picture, Texture } from '../scene';

/** A roughness and stretch in OpenPBR's terms. */
export interface Stretched {
  roughness: number;
  anisotropy: number;
}

/**
 * KHR_materials_anisotropy in OpenPBR's terms: along the direction α is mixed with 1 by the strength squared, across it stays
 * α = roughness²; OpenPBR keeps the mean square, αx = r²·√(2/(1 + k²)) and αy = αx·k with k = 1 − anisotropy.
 */
export function stretched(roughness: number, strength: number): Stretched {
  const across = roughness * roughness;
  const along = across + (1 - across) * strength * strength;
  const k = along > 0 ? across / along : 1;
  return { roughness: Math.sqrt(along * Math.sqrt((1 + k * k) / 2)), anisotropy: 1 - k };
}

/** A value of a texel between 0 and 1, and where a picture is missing its factor alone. */
interface Driven {
  factor: number;
  picture: Picture | null;
  channel: number;
}

/**
 * Pictures of roughness (in red) and stretch (in green) of a surface whose roughness, strength or both are driven by
 * pictures of one size. Null when their sizes differ.
 */
export function stretchedPicture(roughness: Driven, strength: Driven): Picture | null {
  const sizes = [roughness.picture, strength.picture].filter((p) => p !== null);
  const { width, height } = sizes[0];
  if (sizes.some((p) => p.width !== width || p.height !== height)) return null;
  const at = ({ factor, picture, channel }: Driven, i: number) => {
    if (!picture) return factor;
    const v = picture.values[i * picture.channels + Math.min(channel, picture.channels - 1)];
    return (factor * v) / whiteOf(picture.values);
  };
  const values = new Float32Array(width * height * 3);
  for (let i = 0; i < width * height; i++) {
    const made = stretched(at(roughness, i), at(strength, i));
    values[i * 3] = made.roughness;
    values[i * 3 + 1] = made.anisotropy;
  }
  return { width, height, channels: 3, values };
}

/** Whether two textures lie alike on a surface. */
export const lieAlike = (a: Texture, b: Texture) =>
  JSON.stringify([a.offset, a.scale, a.rotationDegrees, a.wrap, a.wrapV]) ===
  JSON.stringify([b.offset, b.scale, b.rotationDegrees, b.wrap, b.wrapV]);

/**
 * The mean direction that a picture of directions (red and green, −1 to 1) gives, in degrees counter-clockwise from its u;
 * null when it has several.
 */
export function directionOf(picture: Picture): number | null {
  const count = picture.width * picture.height;
  const scale = 1 / whiteOf(picture.values);
  let [c, s, n] = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    const x = picture.values[i * picture.channels] * scale * 2 - 1;
    const y = picture.values[i * picture.channels + Math.min(1, picture.channels - 1)] * scale * 2 - 1;
    const l = Math.hypot(x, y);
    if (l < 0.1) continue;
    c += x / l;
    s += y / l;
    n++;
  }
  if (n === 0) return 0;
  return Math.hypot(c, s) / n < 0.99 ? null : (Math.atan2(s, c) * 180) / Math.PI;
}
