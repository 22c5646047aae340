import { between, isIdentity, type Matrix, type WorkingSpace } from '../../image';
import { graded, type Picture } from '../picture';
import { encodingOf, type TableEncoding } from './encodings';

/** A look table: `size` entries a channel (1D) or an axis (3D, red changing fastest), three values each, between two ends. */
export interface LookTable {
  kind: '1D' | '3D';
  size: number;
  low: readonly [number, number, number];
  high: readonly [number, number, number];
  values: Float32Array;
}

/** A table that is refused: the line, and why. */
export class TableError extends Error {}

const LARGEST = { '1D': 65536, '3D': 256 } as const;

/** Reads a .cube file: `LUT_1D_SIZE` or `LUT_3D_SIZE`, `DOMAIN_MIN` and `DOMAIN_MAX`, then the values. Throws `TableError` that names the line. */
export function readCube(text: string): LookTable {
  let kind: LookTable['kind'] | null = null;
  let size = 0;
  let low: [number, number, number] = [0, 0, 0];
  let high: [number, number, number] = [1, 1, 1];
  let values = new Float32Array(0);
  let count = 0;
  const fail = (line: number, why: string) => new TableError(`line ${line + 1}: ${why}`);
  text.split(/\r?\n/).forEach((raw, n) => {
    const line = raw.replace(/#.*$/, '').trim();
    if (line === '' || line.startsWith('TITLE')) return;
    const [word, ...rest] = line.split(/\s+/);
    const three = (from: readonly string[]): [number, number, number] => {
      const v = from.map(Number);
      if (v.length !== 3 || v.some((x) => !Number.isFinite(x)))
        throw fail(n, `three numbers are wanted, not “${raw.trim().slice(0, 60)}”`);
      return [v[0], v[1], v[2]];
    };
    if (word === 'LUT_1D_SIZE' || word === 'LUT_3D_SIZE') {
      if (kind !== null) throw fail(n, 'the size is told twice');
      kind = word === 'LUT_1D_SIZE' ? '1D' : '3D';
      size = Number(rest[0]);
      if (!Number.isInteger(size) || size < 2 || size > LARGEST[kind])
        throw fail(n, `a size from 2 to ${LARGEST[kind]} is wanted`);
      values = new Float32Array((kind === '1D' ? size : size ** 3) * 3);
    } else if (word === 'DOMAIN_MIN') low = three(rest);
    else if (word === 'DOMAIN_MAX') high = three(rest);
    else if (/^[A-Z]/.test(word)) throw fail(n, `${word.slice(0, 40)} is not known`);
    else {
      if (kind === null) throw fail(n, 'values before the size');
      if (count >= values.length) throw fail(n, `more than ${values.length / 3} entries`);
      values.set(three([word, ...rest]), count);
      count += 3;
    }
  });
  if (kind === null) throw new TableError('it tells no size');
  if (count < values.length) throw new TableError(`${count / 3} of ${values.length / 3} entries`);
  if (low.some((v, c) => v >= high[c])) throw new TableError('its ends are the wrong way round');
  return { kind, size, low, high, values };
}

/** Values of a table at a colour, held at its ends; writes them into `rgb`. Of three axes by the tetrahedron that the colour lies in. */
function look({ kind, size, low, high, values }: LookTable, rgb: [number, number, number]): void {
  const at: [number, number, number] = [0, 0, 0];
  for (let c = 0; c < 3; c++) at[c] = Math.min(1, Math.max(0, (rgb[c] - low[c]) / (high[c] - low[c]))) * (size - 1);
  const cell = at.map((v) => Math.min(size - 2, Math.floor(v)));
  const [fr, fg, fb] = at.map((v, c) => v - cell[c]);
  if (kind === '1D') {
    [fr, fg, fb].forEach((f, c) => {
      const i = cell[c] * 3 + c;
      rgb[c] = values[i] + f * (values[i + 3] - values[i]);
    });
    return;
  }
  const [sr, sg, sb] = [3, size * 3, size * size * 3];
  const base = cell[0] * sr + cell[1] * sg + cell[2] * sb;
  // From the near corner to the far one, along the axis that has come farthest first.
  const axes: [number, number][] = [
    [fr, sr],
    [fg, sg],
    [fb, sb],
  ];
  axes.sort((a, b) => b[0] - a[0]);
  const [[f1, s1], [f2, s2], [f3]] = axes;
  const corners = [base, base + s1, base + s1 + s2, base + sr + sg + sb];
  const weights = [1 - f1, f1 - f2, f2 - f3, f3];
  for (let c = 0; c < 3; c++) {
    let v = 0;
    for (let k = 0; k < 4; k++) v += weights[k] * values[corners[k] + c];
    rgb[c] = v;
  }
}

/** Straight colours of a picture, of some working space, as a table is given them. */
function encoded(encoding: TableEncoding, space: WorkingSpace): (rgb: [number, number, number]) => void {
  const { space: own, encode } = encodingOf(encoding);
  const m = between(space, own);
  const led = ledBy(m);
  return (rgb) => {
    led(rgb);
    for (let c = 0; c < 3; c++) rgb[c] = encode(rgb[c]);
  };
}

/** Colours through a matrix, in place. */
function ledBy(m: Matrix): (rgb: [number, number, number]) => void {
  if (isIdentity(m)) return () => {};
  return (rgb) => {
    const [r, g, b] = rgb;
    for (let c = 0; c < 3; c++) rgb[c] = m[c][0] * r + m[c][1] * g + m[c][2] * b;
  };
}

/**
 * A picture through a look table; light is encoded on its way in and decoded on its way out, with primaries as the encoding has them. Beyond the table's ends it is
 * held there. `space`: what the picture is in.
 */
export function table(
  p: Picture,
  { encoding }: { encoding: TableEncoding },
  of: LookTable,
  space: WorkingSpace,
): Picture {
  const { space: own, decode } = encodingOf(encoding);
  const [into, back] = [encoded(encoding, space), ledBy(between(own, space))];
  return graded(p, (rgb) => {
    into(rgb);
    look(of, rgb);
    for (let c = 0; c < 3; c++) rgb[c] = decode(rgb[c]);
    back(rgb);
  });
}

/** Values for a screen by a table that leads light of a working space to them, pixel by pixel. */
export function screened(
  planes: readonly Float32Array[],
  encoding: TableEncoding,
  of: LookTable,
  space: WorkingSpace,
): [Float32Array, Float32Array, Float32Array] {
  const into = encoded(encoding, space);
  const [r, g, b] = planes;
  const out: [Float32Array, Float32Array, Float32Array] = [r.slice(), g.slice(), b.slice()];
  const rgb: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < r.length; i++) {
    for (let c = 0; c < 3; c++) rgb[c] = out[c][i];
    into(rgb);
    look(of, rgb);
    for (let c = 0; c < 3; c++) out[c][i] = rgb[c];
  }
  return out;
}

/** Channels of pixels that lie beyond the ends of a table, and are cut there. */
export function cutBy(
  p: Picture,
  { encoding }: { encoding: TableEncoding },
  { low, high }: LookTable,
  space: WorkingSpace,
): number {
  const into = encoded(encoding, space);
  let count = 0;
  graded(p, (rgb) => {
    into(rgb);
    for (let c = 0; c < 3; c++) if (rgb[c] < low[c] || rgb[c] > high[c]) count++;
  });
  return count;
}
