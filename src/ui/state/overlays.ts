import type { Factors } from '@/core/film';
import type { View } from '@/render/views/show';

/** What a slot's light groups are shown by. */
export interface ShownMix {
  groups: readonly string[];
  factors: Factors;
}

/** What of the desk an overlay goes by. */
interface Settings {
  differenceGain: number | null;
  noiseOf: string | null;
}

interface Overlay {
  /** As a command says it. */
  command: string;
  keys?: string;
  shown?: string;
  /** What the picture shows under it; `mix`: of its light groups, where it is shown by one. */
  view: (desk: Settings, groups: readonly string[], mix: ShownMix | null) => View;
  /** What it tells of the picture that the stack makes, where that is shown. */
  stack?: 'clipped' | 'exposure';
}

const OVERLAY_TABLE = {
  difference: {
    command: 'Difference A − B',
    keys: 'd',
    shown: 'D',
    view: (desk) => ({ kind: 'difference', gain: desk.differenceGain }),
  },
  flip: { command: 'FLIP of A against B', view: () => ({ kind: 'flip' }) },
  noise: {
    command: 'Noise map',
    keys: 'n',
    shown: 'N',
    view: (desk, groups) => ({
      kind: 'noise',
      of: desk.noiseOf !== null && groups.includes(desk.noiseOf) ? desk.noiseOf : null,
    }),
  },
  changed: {
    command: 'What denoising changed beyond noise',
    keys: 'shift+n',
    shown: 'Shift N',
    view: () => ({ kind: 'changed' }),
  },
  cost: { command: 'Cost map', keys: 'c', shown: 'C', view: () => ({ kind: 'cost' }) },
  'tally-group': {
    command: 'Tally error of light groups',
    view: () => ({ kind: 'tally', parting: 'group' }),
  },
  'tally-class': {
    command: 'Tally error of path classes',
    view: () => ({ kind: 'tally', parting: 'class' }),
  },
  clipped: {
    command: 'Clipped and black pixels',
    keys: 'w',
    shown: 'W',
    view: (_desk, _groups, mix) => (mix ? { kind: 'clipped', mix } : { kind: 'clipped' }),
    stack: 'clipped',
  },
  exposure: {
    command: 'Exposure in stops',
    keys: 'shift+w',
    shown: 'Shift W',
    view: (_desk, _groups, mix) => (mix ? { kind: 'exposure', mix } : { kind: 'exposure' }),
    stack: 'exposure',
  },
} satisfies Record<string, Overlay>;

export type OverlayName = keyof typeof OVERLAY_TABLE | 'none';
/** What can be laid over the picture instead of it. */
export const OVERLAYS: Record<Exclude<OverlayName, 'none'>, Overlay> = OVERLAY_TABLE;

/** Whether an overlay shows A against B, so that B is not shown beside it. */
export const isAgainstB = (overlay: OverlayName): boolean => overlay === 'difference' || overlay === 'flip';
