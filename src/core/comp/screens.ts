import type { ScreenCurve, Space } from '../image';

/** Screens by their standards: whose primaries they have, and how light is encoded for them. */
const BY_STANDARD = {
  sRGB: { space: 'Rec.709', curve: 'srgb' },
  'Rec.709': { space: 'Rec.709', curve: 'bt1886' },
  'Display P3': { space: 'Display P3', curve: 'srgb' },
} as const satisfies Record<string, { space: Space; curve: ScreenCurve }>;

export const SCREENS = ['sRGB', 'Rec.709', 'Display P3'] as const;
export type Screen = (typeof SCREENS)[number];

export const screenOf = (screen: Screen): { space: Space; curve: ScreenCurve } => BY_STANDARD[screen];
