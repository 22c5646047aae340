import { luminance } from '@/core/image';

type Rgb = [number, number, number];
/** Albedos beyond this are no paint. */
const MOST_ALBEDO = 0.95;
/** Below this an albedo tells nothing about the light on it. */
const LEAST_ALBEDO = 0.004;
const CHANNELS = ['red', 'green', 'blue'] as const;

export interface Proposal {
  albedo: Rgb;
  /** Light measured on the surface, 1 = a white surface there shows as display white. */
  light: Rgb;
  /** Set when the light cannot show the target: the channel, the albedo it would take, and the light group to blame. */
  short: { channel: (typeof CHANNELS)[number]; needed: number; group: string | null; share: number } | null;
}

/**
 * The albedo that shows as `target` (0..1 of display white) under the light that falls where `rgb` is seen on a surface of
 * `albedo`: target ÷ (seen × exposure ÷ albedo), channel by channel. Where that is beyond any paint, the group that
 * brings the most light and the least of the lacking channel is named, with the channel's share of its light.
 */
export function proposeAlbedo(
  rgb: Rgb,
  groups: readonly { group: string; rgb: Rgb }[],
  albedo: readonly number[],
  target: Rgb,
  exposure: number,
): Proposal {
  const light = rgb.map((c, k) => (albedo[k] > LEAST_ALBEDO ? (c * exposure) / albedo[k] : 0)) as Rgb;
  const wanted = target.map((c, k) => (light[k] > 0 ? c / light[k] : c > 0 ? Infinity : 0));
  const worst = Math.max(...wanted);
  const proposal: Proposal = { albedo: wanted.map((c) => Math.min(MOST_ALBEDO, c)) as Rgb, light, short: null };
  if (worst <= MOST_ALBEDO) return proposal;
  const k = wanted.indexOf(worst);
  const falling = groups
    .map((g) => ({
      group: g.group,
      rgb: g.rgb.map((c, i) => (albedo[i] > LEAST_ALBEDO ? c / albedo[i] : 0)) as Rgb,
    }))
    .filter((g) => luminance(...g.rgb) > 0);
  const blame = falling
    .map((g) => {
      const sum = g.rgb[0] + g.rgb[1] + g.rgb[2];
      return { group: g.group, share: g.rgb[k] / sum, weight: luminance(...g.rgb) * (1 - g.rgb[k] / sum) };
    })
    .sort((a, b) => b.weight - a.weight)[0];
  proposal.short = { channel: CHANNELS[k], needed: worst, group: blame?.group ?? null, share: blame?.share ?? 0 };
  return proposal;
}
