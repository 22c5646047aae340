import { applied, between, decodeSrgb, encodeSrgb, luminanceWeights, type WorkingSpace } from '../image';
import type { Beside } from './operations';
import { bentBy, endless, gainsOf, rolledFrom, vignetteFactor } from './operations/tone';
import type { Rgb } from './picture';
import type { Operation } from './stack';

/** Tables have so many steps in each doubling, over so many of them; the same is in assembly/tones.ts. */
const [STEPS_A_DOUBLING, DOUBLINGS, FIRST_POWER] = [512, 44, -24];

export type Table = Float32Array;

/** Where the steps of tables are. */
const PLACES = Float64Array.from(
  { length: STEPS_A_DOUBLING * DOUBLINGS + 1 },
  (_, i) => 2 ** (FIRST_POWER + Math.floor(i / STEPS_A_DOUBLING)) * (1 + (i % STEPS_A_DOUBLING) / STEPS_A_DOUBLING),
);
/** Bytes of a table. */
export const TABLE_BYTES = PLACES.length * 4;

const tabled = (f: (v: number) => number): Table => Float32Array.from(PLACES, f);

/** What is done pixel by pixel, as the loops take it. */
export type Tone =
  | { kind: 'scale'; rgb: Rgb }
  /** `weights`: of luminance. */
  | { kind: 'saturate'; amount: number; weights: Rgb }
  /** Each channel through a table; `slopes`: of what is below 0. */
  | { kind: 'lead'; tables: readonly [Table, Table, Table]; slopes: Rgb }
  /** Each channel times what a table has for luminance. */
  | { kind: 'gain'; tables: readonly [Table, Table, Table]; weights: Rgb }
  | { kind: 'veil'; table: Table; depth: Float32Array; rgb: Rgb }
  | { kind: 'times'; plane: Float32Array };

const kept = new Map<string, Tone>();
const MOST_KEPT = 24;

/** A tone that takes long to make, made once for its settings. */
function once(o: Operation, space: WorkingSpace, make: () => Tone): Tone {
  const key = JSON.stringify([space, o]);
  const tone = kept.get(key) ?? make();
  kept.delete(key);
  kept.set(key, tone);
  for (const old of kept.keys()) {
    if (kept.size <= MOST_KEPT) break;
    kept.delete(old);
  }
  return tone;
}

const alike = (table: Table): [Table, Table, Table] => [table, table, table];
const isOne = (rgb: readonly number[]) => rgb.every((v) => v === 1);

const [REC709, ACESCG] = [luminanceWeights('Rec.709'), luminanceWeights('ACEScg')];
/** Weights of luminance of a working space. */
const weightsOf = (space: WorkingSpace): Rgb => (space === 'Rec.709' ? REC709 : ACESCG);

/** A colour that a stack names, linear Rec.709, in the space that it works in. */
export function inSpace(rgb: Rgb, space: WorkingSpace): Rgb {
  if (space === 'Rec.709') return rgb;
  const [r, g, b] = applied(between('Rec.709', space), rgb);
  return [r, g, b];
}

/** An operation as the loops take it; 'nothing' where it changes nothing, null where it needs more than one pixel after the other. */
export function toneOf(
  o: Operation,
  beside: Beside,
  space: WorkingSpace,
  width: number,
  height: number,
): Tone | 'nothing' | null {
  switch (o.does) {
    case 'exposure': {
      const k = 2 ** o.stops;
      const rgb: Rgb = [o.tint[0] * k, o.tint[1] * k, o.tint[2] * k];
      return isOne(rgb) ? 'nothing' : { kind: 'scale', rgb };
    }
    case 'white': {
      if (o.rgb.every((c) => c === o.rgb[0])) return 'nothing';
      const rgb = inSpace(o.rgb, space);
      if (rgb.some((c) => c <= 0)) return 'nothing';
      const weights = weightsOf(space);
      const y = rgb.reduce((sum, v, c) => sum + v * weights[c], 0);
      return { kind: 'scale', rgb: [y / rgb[0], y / rgb[1], y / rgb[2]] };
    }
    case 'contrast':
      if (o.amount === 1) return 'nothing';
      return once(o, space, () => ({ kind: 'lead', tables: alike(tabled(bentBy(o))), slopes: [1, 1, 1] }));
    case 'saturation':
      return o.amount === 1 ? 'nothing' : { kind: 'saturate', amount: o.amount, weights: weightsOf(space) };
    case 'ranges': {
      const gains = gainsOf(o);
      if (gains === null) return 'nothing';
      return once(o, space, () => {
        const table = (c: number) => tabled((y) => gains(y)[c]);
        const isGrey = [o.shadows, o.middle, o.lights].every(({ tint: [r, g, b] }) => r === g && g === b);
        const tables: [Table, Table, Table] = isGrey ? alike(table(0)) : [table(0), table(1), table(2)];
        return { kind: 'gain', tables, weights: weightsOf(space) };
      });
    }
    case 'shoulder':
      if (o.from === 1) return 'nothing';
      return once(o, space, () => ({ kind: 'lead', tables: alike(tabled(rolledFrom(o.from))), slopes: [1, 1, 1] }));
    case 'curves': {
      const { all, red, green, blue } = o;
      if ([all, red, green, blue].every((c) => c.length === 0)) return 'nothing';
      return once(o, space, () => {
        const whole = endless(all);
        const [r, g, b] = [red, green, blue].map((points) => {
          const own = endless(points);
          return (v: number) => decodeSrgb(own(whole(encodeSrgb(v))));
        });
        const below = (f: (v: number) => number) => -f(-1);
        return {
          kind: 'lead',
          tables: [tabled(r), tabled(g), tabled(b)],
          slopes: [below(r), below(g), below(b)],
        };
      });
    }
    case 'haze':
      if (o.perMetre === 0) return 'nothing';
      return {
        kind: 'veil',
        table: tabled((z) => Math.exp(-o.perMetre * z)),
        depth: beside.depth(o.film, o.layer),
        rgb: inSpace(o.rgb, space),
      };
    case 'vignette':
      return o.amount === 0 ? 'nothing' : { kind: 'times', plane: vignetteFactor(o, width, height) };
    default:
      return null;
  }
}
