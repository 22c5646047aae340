import { mulberry } from './resample';

/** Cells chosen to stand for all, with the share of the whole that each stands for. */
export interface Chosen {
  cells: number[];
  stratum: number[];
  weight: number[];
}

/**
 * Chooses about `count` cells to stand for all, by strata of what matters (`worth`, 0 or more), the worthier strata with
 * more cells [Neyman 1934; Cochran, Sampling Techniques, ch. 5]: strata hold equal shares of √worth, so that few cells with
 * much of it are taken one by one. At least two of each stratum, all of a stratum that has no more.
 */
export function chooseCells(worth: ArrayLike<number>, count: number, seed = 1): Chosen {
  const order = Array.from({ length: worth.length }, (_, i) => i).sort((a, b) => worth[a] - worth[b] || a - b);
  const root = order.map((i) => Math.sqrt(Math.max(0, worth[i])));
  const whole = root.reduce((a, v) => a + v, 0);
  const strata = Math.max(1, Math.min(16, Math.floor(count / 3)));
  const groups: number[][] = Array.from({ length: strata }, () => []);
  let sum = 0;
  order.forEach((cell, i) => {
    const share = whole > 0 ? (sum + root[i] / 2) / whole : (i + 0.5) / order.length;
    groups[Math.min(strata - 1, Math.floor(share * strata))].push(cell);
    sum += root[i];
  });
  const random = mulberry(seed);
  const out: Chosen = { cells: [], stratum: [], weight: [] };
  const each = Math.max(2, Math.round(count / strata));
  groups
    .filter((g) => g.length > 0)
    .forEach((group, s) => {
      const left = [...group];
      const take = Math.min(left.length, each);
      for (let k = 0; k < take; k++) {
        const [cell] = left.splice(Math.floor(random() * left.length), 1);
        out.cells.push(cell);
        out.stratum.push(s);
        out.weight.push(group.length / take / worth.length);
      }
    });
  return out;
}

/** One of some windows or cells, and its share in a mean over all. */
export interface Drawn {
  index: number;
  weight: number;
}

/**
 * Draws `count` of some, one more often the more it is worth, evenly spaced along their sum [Madow 1949; Cochran, Sampling
 * Techniques, ch. 9A]. One of much worth may be drawn several times; `floor`, a share of the mean worth, is what each is worth
 * at least. The mean of anything over all is estimated by the sum of its values times the weights.
 */
export function drawByWorth(worth: readonly number[], count: number, floor: number, seed = 1): Drawn[] {
  const mean = worth.reduce((a, v) => a + v, 0) / worth.length;
  const own = worth.map((v) => (mean > 0 ? v / mean + floor : 1));
  const whole = own.reduce((a, v) => a + v, 0);
  const start = mulberry(seed)();
  const out: Drawn[] = [];
  let sum = 0;
  own.forEach((v, index) => {
    sum += (v / whole) * count;
    while (out.length < count && out.length + start < sum)
      out.push({ index, weight: whole / (v * count * worth.length) });
  });
  return out;
}
