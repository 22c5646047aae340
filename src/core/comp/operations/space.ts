import { graded, type Picture, type Rgb, relit } from '../picture';

/** Light less towards the corners: from the distance `from` on (1 is a corner), down to 1 − amount there, with no step in slope where it begins. */
export function vignette(p: Picture, { amount, from }: { amount: number; from: number }): Picture {
  if (amount === 0) return p;
  const { width, height, planes } = p;
  const factor = new Float32Array(width * height);
  const corner = Math.hypot(width, height) / 2;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const d = Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / corner;
      const t = from < 1 ? Math.max(0, (d - from) / (1 - from)) : 0;
      factor[y * width + x] = 1 - amount * t * t;
    }
  const less = (plane: Float32Array) => plane.map((v, i) => v * factor[i]);
  return relit(p, [less(planes[0]), less(planes[1]), less(planes[2])]);
}

/** Fog by depth in metres: e^(−perMetre·z) of the light is left, and of the fog's own colour there is the rest. What is infinitely far is fog alone. */
export function haze(p: Picture, { rgb, perMetre }: { rgb: Rgb; perMetre: number }, depth: Float32Array): Picture {
  if (perMetre === 0) return p;
  let i = 0;
  return graded(p, (color) => {
    const left = Math.exp(-perMetre * Math.max(0, depth[i++]));
    for (let c = 0; c < 3; c++) color[c] = color[c] * left + rgb[c] * (1 - left);
  });
}
