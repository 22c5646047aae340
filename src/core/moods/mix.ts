import type { Factors } from '../film';
import { kelvinToRgb, luminance } from '../image';
import { withOuter } from '../scene';
import type { GroupMix, Mix, MixColor } from './schema';

type Rgb = [number, number, number];

/** What a group is that no mix names. */
export const AS_RENDERED: GroupMix = { stops: 0, on: true, color: { kind: 'own' } };

/** What a mix says of a group by its own name. */
export const mixOf = (mix: Mix, group: string): GroupMix => mix[group] ?? AS_RENDERED;

const isOwn = ({ stops, on, color }: GroupMix): boolean => stops === 0 && on && color.kind === 'own';

/** A mix without what is as it was rendered. */
export const withoutNeutral = (mix: Mix): Mix => Object.fromEntries(Object.entries(mix).filter(([, m]) => !isOwn(m)));

/** Whether a mix leaves these groups as they were rendered. */
export const isNeutral = (mix: Mix, groups: readonly string[]): boolean =>
  groups.every((g) => withOuter(g).every((n) => isOwn(mixOf(mix, n))));

/** Groups that a mix changes and that are neither among these nor hold one of them. */
export function missingGroups(mix: Mix, groups: readonly string[]): string[] {
  const known = new Set(groups.flatMap(withOuter));
  return Object.keys(withoutNeutral(mix)).filter((g) => !known.has(g));
}

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

/** What becomes of a group in a mix, by its own name and by all that it is in. */
export interface Mixing {
  on: boolean;
  stops: number;
  /** What becomes of each channel, beside the stops. */
  color: Rgb;
  /** The temperature that its light has then; null where it has no other. */
  kelvin: number | null;
}

/**
 * What a mix does to a group. What stands for an outer group holds for what is in it: gains add up in stops, tints multiply, and of colours that are
 * set the innermost counts. `own`: the colour that the group emitted, linear Rec.709 of luminance 1.
 */
export function mixingOf(mix: Mix, group: string, own: readonly number[] | undefined): Mixing {
  const all = withOuter(group).map((n) => mixOf(mix, n));
  const colors = all.map((m) => m.color);
  const set = colors.findLast((c) => c.kind === 'emitted' || c.kind === 'kelvin');
  const tints = colors.filter((c) => c.kind === 'tint');
  const color = tints.reduce(
    (rgb, { rgb: k }) => rgb.map((v, c) => v * k[c]) as Rgb,
    set ? colorFactors(set, own) : WHITE,
  );
  return {
    on: all.every((m) => m.on),
    stops: all.reduce((sum, m) => sum + m.stops, 0),
    color,
    kelvin: set?.kind === 'kelvin' && tints.length === 0 ? set.kelvin : null,
  };
}

/**
 * RGB factors of light groups in a mix. `own`: the colour that each emits as it was rendered, linear Rec.709 of luminance 1; white where
 * it is not told. `alone`: groups that are on for looking, with what is in them, and no others; none means all.
 */
export function mixFactors(
  groups: readonly string[],
  mix: Mix,
  own: Readonly<Record<string, readonly number[]>>,
  alone: readonly string[] = [],
): Factors {
  const isAlone = (g: string) => withOuter(g).some((n) => alone.includes(n));
  const isAny = groups.some(isAlone);
  return Object.fromEntries(
    groups.map((g): [string, Rgb] => {
      const { on, stops, color } = mixingOf(mix, g, own[g]);
      if (isAny ? !isAlone(g) : !on) return [g, [0, 0, 0]];
      const k = 2 ** stops;
      return [g, color.map((c) => c * k) as Rgb];
    }),
  );
}

/** Stops that stand for off between two mixes. */
const OFF = -10;

/** A mix in which what is said of `outer` is said of each of the groups that are in it instead. */
function spelledOut(
  mix: Mix,
  outer: string,
  groups: readonly string[],
  own: Readonly<Record<string, readonly number[]>>,
): Mix {
  const inner = groups.filter((g) => withOuter(g).includes(outer));
  const rest = Object.entries(mix).filter(([g]) => !withOuter(g).includes(outer));
  const said = Object.fromEntries(Object.entries(mix).filter(([g]) => withOuter(g).includes(outer)));
  return Object.fromEntries([
    ...rest,
    ...inner.map((g): [string, GroupMix] => {
      const { on, stops, color } = mixingOf(said, g, own[g]);
      return [g, { on, stops, color: { kind: 'tint', rgb: color } }];
    }),
  ]);
}

/**
 * The mix a part `t` of the way from one to another: gains go evenly in stops, colours in linear light. A group that is off in one of the two
 * comes from ten stops below. `own`: the colours that the groups of the film emitted.
 */
export function between(a: Mix, b: Mix, t: number, own: Readonly<Record<string, readonly number[]>>): Mix {
  if (t <= 0) return withoutNeutral(a);
  if (t >= 1) return withoutNeutral(b);
  const way = (p: number, q: number) => p + (q - p) * t;
  const isSame = (p: MixColor, q: MixColor) => JSON.stringify(p) === JSON.stringify(q);
  const names = (p: Mix, q: Mix) => [...new Set([...Object.keys(p), ...Object.keys(q)])];
  const known = Object.keys(own);
  const isIn = (g: string, outer: string) => g !== outer && withOuter(g).includes(outer);
  const groups = known.filter((g) => !known.some((o) => isIn(o, g)));
  // Colours that are set for several lights at once are another factor for each of them.
  const outer = names(a, b).find(
    (g) => !isSame(mixOf(a, g).color, mixOf(b, g).color) && groups.some((o) => isIn(o, g)),
  );
  if (outer !== undefined) return between(spelledOut(a, outer, groups, own), spelledOut(b, outer, groups, own), t, own);
  return withoutNeutral(
    Object.fromEntries(
      names(a, b).map((g) => {
        const [p, q] = [mixOf(a, g), mixOf(b, g)];
        if (JSON.stringify(p) === JSON.stringify(q)) return [g, p];
        if (!p.on && !q.on) return [g, { ...q, stops: way(p.stops, q.stops) }];
        const [from, to] = [p.on ? p.stops : OFF, q.on ? q.stops : OFF];
        const colors = [p, q].map(({ color }) => colorFactors(color, own[g]));
        const rgb = colors[0].map((v, c) => way(v, colors[1][c])) as Rgb;
        return [
          g,
          { on: true, stops: way(from, to), color: isSame(p.color, q.color) ? p.color : { kind: 'tint', rgb } },
        ];
      }),
    ),
  );
}
