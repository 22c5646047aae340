import type { Factors } from '../film';
import { kelvinToRgb, luminance } from '../image';
import type { GroupMix, Mix, MixColor } from './schema';

type Rgb = [number, number, number];

/** What a group is that no mix names. */
export const AS_RENDERED: GroupMix = { stops: 0, on: true, color: { kind: 'own' } };

/** What a mix does to a group. */
export const mixOf = (mix: Mix, group: string): GroupMix => mix[group] ?? AS_RENDERED;

const isOwn = ({ stops, on, color }: GroupMix): boolean => stops === 0 && on && color.kind === 'own';

/** A mix without what is as it was rendered. */
export const withoutNeutral = (mix: Mix): Mix => Object.fromEntries(Object.entries(mix).filter(([, m]) => !isOwn(m)));

/** Whether a mix leaves these groups as they were rendered. */
export const isNeutral = (mix: Mix, groups: readonly string[]): boolean => groups.every((g) => isOwn(mixOf(mix, g)));

/** Groups that a mix changes and that are not among these. */
export const missingGroups = (mix: Mix, groups: readonly string[]): string[] =>
  Object.keys(withoutNeutral(mix)).filter((g) => !groups.includes(g));

/** Below this part of its strongest channel a channel of light is nearly empty: what it is lifted to is noise. */
const EMPTY = 0.02;

/** Channels of a colour that are nearly empty. */
export function emptyChannels(color: readonly number[]): ('red' | 'green' | 'blue')[] {
  const most = Math.max(...color);
  return (['red', 'green', 'blue'] as const).filter((_, c) => color[c] < most * EMPTY);
}

/** A colour of luminance 1. */
function even([r, g, b]: readonly number[]): Rgb {
  const y = luminance(r, g, b);
  return [r / y, g / y, b / y];
}

/** The colour that a group emits by its mix, of luminance 1 as `own` is; with a tint as bright as the tint makes it. */
export function emittedColor(color: MixColor, own: readonly number[]): Rgb {
  switch (color.kind) {
    case 'own':
      return [own[0], own[1], own[2]];
    case 'tint':
      return [own[0] * color.rgb[0], own[1] * color.rgb[1], own[2] * color.rgb[2]];
    case 'emitted':
      return even(color.rgb);
    case 'kelvin':
      return even(kelvinToRgb(color.kelvin));
  }
}

const WHITE: Rgb = [1, 1, 1];

/** What becomes of each channel of a group's light; a channel that is not emitted at all stays black. */
export function colorFactors(color: MixColor, own: readonly number[] | undefined): Rgb {
  if (color.kind === 'own') return WHITE;
  if (color.kind === 'tint') return color.rgb;
  const from = own ?? WHITE;
  const to = emittedColor(color, from);
  return from.map((v, c) => (v > 0 ? to[c] / v : 1)) as Rgb;
}

/**
 * RGB factors of light groups in a mix. `own`: the colour that each emits as it was rendered, linear Rec.709 of luminance 1; white where
 * it is not told. `alone`: groups that are on for looking, and no others; none means all.
 */
export function mixFactors(
  groups: readonly string[],
  mix: Mix,
  own: Readonly<Record<string, readonly number[]>>,
  alone: readonly string[] = [],
): Factors {
  const isAny = alone.some((g) => groups.includes(g));
  return Object.fromEntries(
    groups.map((g): [string, Rgb] => {
      const { stops, on, color } = mixOf(mix, g);
      if (isAny ? !alone.includes(g) : !on) return [g, [0, 0, 0]];
      const k = 2 ** stops;
      return [g, colorFactors(color, own[g]).map((c) => c * k) as Rgb];
    }),
  );
}

/** Stops that stand for off between two mixes. */
const OFF = -10;

/**
 * The mix a part `t` of the way from one to another: gains go evenly in stops, colours in linear light. A group that is off in one of the two
 * comes from ten stops below.
 */
export function between(a: Mix, b: Mix, t: number, own: Readonly<Record<string, readonly number[]>>): Mix {
  const way = (p: number, q: number) => p + (q - p) * t;
  return withoutNeutral(
    Object.fromEntries(
      [...new Set([...Object.keys(a), ...Object.keys(b)])].map((g) => {
        const [p, q] = [mixOf(a, g), mixOf(b, g)];
        if (t <= 0 || JSON.stringify(p) === JSON.stringify(q)) return [g, p];
        if (t >= 1) return [g, q];
        if (!p.on && !q.on) return [g, { ...q, stops: way(p.stops, q.stops) }];
        const [from, to] = [p.on ? p.stops : OFF, q.on ? q.stops : OFF];
        const colors = [p, q].map(({ color }) => colorFactors(color, own[g]));
        const isSame = JSON.stringify(p.color) === JSON.stringify(q.color);
        const rgb = colors[0].map((v, c) => way(v, colors[1][c])) as Rgb;
        return [g, { on: true, stops: way(from, to), color: isSame ? p.color : { kind: 'tint', rgb } }];
      }),
    ),
  );
}
