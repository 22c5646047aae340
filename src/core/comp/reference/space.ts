import { vignetteFactor } from '../operations/tone';
import { graded, type Picture, type Rgb, relit } from '../picture';

/** Light less towards the corners. */
export function vignette(p: Picture, settings: { amount: number; from: number }): Picture {
  if (settings.amount === 0) return p;
  const factor = vignetteFactor(settings, p.width, p.height);
  const less = (plane: Float32Array) => plane.map((v, i) => v * factor[i]);
  return relit(p, [less(p.planes[0]), less(p.planes[1]), less(p.planes[2])]);
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
