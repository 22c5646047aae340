import { unbent } from '@/core/denoise';
import { type Film, type FilmLayers, LAYER, msOfCell } from '@/core/film';
import { type Display, displayReader, luminance } from '@/core/image';
import { TILE_SIZE } from '@/core/kernel';
import { noiseSquares, type Rgb } from '@/core/stats';

/** Side of a window in cells; what is nearer to its edge than one cell is not judged. */
const SIDE = 5;

/** Mean squares over the judged part of a window, as displayed. */
export interface Squares {
  error: number;
  residual: number;
  noise: number;
}

/** A part of a film that is denoised by itself. */
export interface Window {
  cells: number[];
  x: number;
  y: number;
  w: number;
  h: number;
  /** Pixels at its edges that are not judged: left, top, right, bottom. */
  edge: [number, number, number, number];
}

/** Where windows of so many cells begin that cover `all`: as few as can be, evenly apart. */
function beginnings(all: number, own: number): number[] {
  const count = Math.ceil(all / own);
  return Array.from({ length: count }, (_, k) => (count === 1 ? 0 : Math.round((k * (all - own)) / (count - 1))));
}

/** Windows that cover a film. */
export function windowsOf(film: Film): Window[] {
  const { width, height } = film.spec.region;
  const [columns, rows] = [Math.ceil(width / TILE_SIZE), Math.ceil(height / TILE_SIZE)];
  const [across, down] = [Math.min(SIDE, columns), Math.min(SIDE, rows)];
  const out: Window[] = [];
  for (const cy of beginnings(rows, down))
    for (const cx of beginnings(columns, across)) {
      const cells: number[] = [];
      for (let j = 0; j < down; j++) for (let i = 0; i < across; i++) cells.push((cy + j) * columns + cx + i);
      const [x, y] = [cx * TILE_SIZE, cy * TILE_SIZE];
      const w = Math.min(width, x + across * TILE_SIZE) - x;
      const h = Math.min(height, y + down * TILE_SIZE) - y;
      const inside = (is: boolean) => (is ? TILE_SIZE : 0);
      const edge: Window['edge'] = [inside(x > 0), inside(y > 0), inside(x + w < width), inside(y + h < height)];
      out.push({ cells, x, y, w, h, edge });
    }
  return out;
}

const rgb = (film: FilmLayers, name: string) => film.layers.get(name)!.planes as unknown as Rgb;

/** How far a denoised window is from the truth, told by two films that it has not seen. */
export function squaresOf(
  plain: FilmLayers,
  made: FilmLayers,
  truth: readonly FilmLayers[],
  display: Display,
  edge: Window['edge'],
): Squares {
  const f = displayReader(display);
  const light = ([r, g, b]: Rgb, i: number) => luminance(r[i], g[i], b[i]);
  const told = ([a, b]: readonly [Rgb, Rgb], i: number) => unbent(f, light(a, i), light(b, i));
  const halves = (film: FilmLayers) => [rgb(film, LAYER.half('a')), rgb(film, LAYER.half('b'))] as const;
  const [t, u] = truth.map(halves);
  const d = rgb(made, 'beauty');
  const left = noiseSquares(...halves(made), display);
  const noisy = noiseSquares(...halves(plain), display);
  const sum: Squares = { error: 0, residual: 0, noise: 0 };
  let n = 0;
  for (let y = edge[1]; y < plain.height - edge[3]; y++)
    for (let x = edge[0]; x < plain.width - edge[2]; x++, n++) {
      const i = y * plain.width + x;
      const own = f(light(d, i));
      sum.error += (own - told(t, i)) * (own - told(u, i));
      sum.residual += left[i];
      sum.noise += noisy[i];
    }
  return { error: sum.error / n, residual: sum.residual / n, noise: sum.noise / n };
}

/** Milliseconds of a thread that a pixel of a window took. */
export function msOfWindow(film: Film, { cells }: Window): number {
  let [ms, pixels] = [0, 0];
  for (const t of cells) {
    const { w, h } = film.place(t);
    ms += msOfCell(film, t) * w * h;
    pixels += w * h;
  }
  return ms / pixels;
}
