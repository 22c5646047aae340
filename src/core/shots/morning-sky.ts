import * as fmath from '../fmath';
import { encodeSrgb } from '../image';
import type { Picture } from '../scene';
import { detail3 } from './forms';

const [WIDTH, HEIGHT] = [960, 540];
/** Where the horizon lies for the harbour master's camera, in parts of the height. */
const HORIZON = 0.585;
/** Where the sun stands, across. */
const SUN = 0.16;

const mix = (a: readonly number[], b: readonly number[], t: number) => a.map((v, i) => v + (b[i] - v) * t);
const held = (t: number) => Math.min(1, Math.max(0, t));
const smooth = (t: number) => held(t) ** 2 * (3 - 2 * held(t));

const ZENITH = [0.16, 0.27, 0.46];
const BAND = [0.93, 0.66, 0.42];
const CLOUD = [0.3, 0.29, 0.34];
const LIT = [1, 0.76, 0.52];
const FAR = [0.17, 0.2, 0.25];
const NEAR = [0.1, 0.12, 0.15];
const WATER = [0.25, 0.28, 0.31];

/** How high a headland stands above the horizon at a place across, in parts of the height. */
function headland(x: number, seed: number, high: number): number {
  return high * Math.max(0, detail3(x * 5, seed, 0.5, 4, seed) * 1.9 - 0.75);
}

/**
 * The plate of quay-dawn: the sky before sunrise over the sound, with clouds lit from below and the land on its far side. 16 bits, as sRGB encodes it;
 * 1 is display white. Deterministic.
 */
export function morningSky(): Picture {
  const values = new Uint16Array(WIDTH * HEIGHT * 3);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const [u, v] = [(x + 0.5) / WIDTH, (y + 0.5) / HEIGHT];
      const above = (HORIZON - v) / HORIZON;
      let rgb: readonly number[];
      if (above > 0) {
        const glow = fmath.exp(-4.2 * above) * (0.55 + 0.45 * fmath.exp(-(((u - SUN) / 0.33) ** 2)));
        rgb = mix(ZENITH, BAND, held(glow * 1.15));
        // Clouds lie on a plane overhead, so they draw together towards the horizon.
        const far = 1 / (above + 0.11);
        const [cx, cy] = [(u - 0.5) * far * 1.7, far * 1.3];
        const thick = smooth((detail3(cx, cy, 3.1, 6, 11) - 0.47) * 4.2) * smooth(above * 9);
        const under = thick > 0 ? detail3(cx - 0.16, cy - 0.07, 3.1, 4, 11) : 0;
        const lit =
          held((0.66 - under) * 4) * fmath.exp(-1.9 * above) * (0.5 + 0.5 * fmath.exp(-(((u - SUN) / 0.5) ** 2)));
        rgb = mix(rgb, mix(CLOUD, LIT, lit), thick * 0.86);
        const land = HORIZON - v;
        if (land < 0.08 && land < headland(u, 7, 0.07)) rgb = mix(FAR, BAND, 0.22);
        if (land < 0.05 && land < headland(u + 0.4, 19, 0.038)) rgb = mix(NEAR, BAND, 0.1);
      } else {
        const wave = detail3(u * 60, -above * 240, 1.5, 3, 5) - 0.5;
        rgb = mix(WATER, BAND, held(0.3 + above * 0.6 + wave * 0.35));
      }
      for (let c = 0; c < 3; c++) values[(y * WIDTH + x) * 3 + c] = Math.round(encodeSrgb(held(rgb[c])) * 65535);
    }
  return { width: WIDTH, height: HEIGHT, channels: 3, values };
}
