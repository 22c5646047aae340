import { z } from 'zod';
import { blank, type Picture } from './picture';

const finite = z.number();

/** How a picture lies in the frame. */
export const placingSchema = z.strictObject({
  /** `fill`: as large as covers the frame, `inside`: as large as fits into it, `stretch`: each side to its own, `pixels`: as many as it has. */
  fit: z.enum(['fill', 'inside', 'stretch', 'pixels']).default('fill'),
  /** Moved by parts of the frame's width and height, made larger, and turned about its middle, clockwise. */
  x: finite.min(-10).max(10).default(0),
  y: finite.min(-10).max(10).default(0),
  scale: finite.min(0.001).max(1000).default(1),
  turnDegrees: finite.min(-3600).max(3600).default(0),
});
export type Placing = z.infer<typeof placingSchema>;

interface Size {
  width: number;
  height: number;
}
/** The part of a frame that is wanted, in its pixels. */
export interface FramePart {
  x: number;
  y: number;
  w: number;
  h: number;
}

/** A picture of which each pixel is the mean of `k`×`k` of another; what does not fill the last of them counts as often as it is there. */
function reduced(p: Picture, k: number): Picture {
  const [width, height] = [Math.ceil(p.width / k), Math.ceil(p.height / k)];
  const out = blank(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [x1, y1] = [Math.min(p.width, (x + 1) * k), Math.min(p.height, (y + 1) * k)];
      const count = (x1 - x * k) * (y1 - y * k);
      for (let c = 0; c < 4; c++) {
        let sum = 0;
        for (let v = y * k; v < y1; v++) for (let u = x * k; u < x1; u++) sum += p.planes[c][v * p.width + u];
        out.planes[c][y * width + x] = sum / count;
      }
    }
  return out;
}

/**
 * A picture laid into a frame, of which a part may be wanted. Between pixels it goes evenly (bilinear); where it becomes smaller, pixels are averaged by areas
 * first. Beyond it is nothing; its edge covers parts of pixels. What fits as it is stays as it is, bit for bit.
 */
export function placed(p: Picture, rule: Placing, frame: Size, part?: FramePart): Picture {
  const { x, y, w, h } = part ?? { x: 0, y: 0, w: frame.width, h: frame.height };
  const [fx, fy] = [frame.width / p.width, frame.height / p.height];
  const fit = { fill: Math.max(fx, fy), inside: Math.min(fx, fy), stretch: fx, pixels: 1 }[rule.fit];
  const scale = [fit * rule.scale, (rule.fit === 'stretch' ? fy : fit) * rule.scale];
  const isAsItIs = scale[0] === 1 && scale[1] === 1 && rule.turnDegrees === 0 && rule.x === 0 && rule.y === 0;
  const isWhole = x === 0 && y === 0 && w === p.width && h === p.height;
  if (isAsItIs && isWhole && p.width === frame.width && p.height === frame.height) return p;
  const k = Math.max(1, Math.floor(1 / Math.max(scale[0], scale[1]) + 1e-9));
  const from = k > 1 ? reduced(p, k) : p;
  const turn = (rule.turnDegrees * Math.PI) / 180;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const [cx, cy] = [frame.width * (0.5 + rule.x), frame.height * (0.5 + rule.y)];
  const out = blank(w, h);
  for (let j = 0; j < h; j++)
    for (let i = 0; i < w; i++) {
      const [dx, dy] = [x + i + 0.5 - cx, y + j + 0.5 - cy];
      const u = (dx * cos + dy * sin) / scale[0] + p.width / 2;
      const v = (dy * cos - dx * sin) / scale[1] + p.height / 2;
      const edge = (at: number, size: number, s: number) => Math.min(1, Math.max(0, Math.min(at, size - at) * s + 0.5));
      const cover = edge(u, p.width, scale[0]) * edge(v, p.height, scale[1]);
      if (cover === 0) continue;
      const [su, sv] = [u / k - 0.5, v / k - 0.5];
      const [u0, v0] = [Math.floor(su), Math.floor(sv)];
      const [tu, tv] = [su - u0, sv - v0];
      const held = (at: number, most: number) => Math.min(most - 1, Math.max(0, at));
      const [left, right] = [held(u0, from.width), held(u0 + 1, from.width)];
      const [top, bottom] = [held(v0, from.height) * from.width, held(v0 + 1, from.height) * from.width];
      for (let c = 0; c < 4; c++) {
        const plane = from.planes[c];
        const above = plane[top + left] + tu * (plane[top + right] - plane[top + left]);
        const below = plane[bottom + left] + tu * (plane[bottom + right] - plane[bottom + left]);
        out.planes[c][j * w + i] = (above + tv * (below - above)) * cover;
      }
    }
  return out;
}
