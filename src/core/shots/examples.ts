import type { Picture } from '../scene';
import { morningSky } from './morning-sky';

/** A plate of a shot that ships, one still. */
export interface ShotPlate {
  name: string;
  make: () => Picture;
}

/** Plates of shots that ship, by the names of the shots. */
export const SHOT_PLATES: Record<string, ShotPlate> = {
  'quay-dawn': { name: 'morning sky', make: morningSky },
};

const light = (layer: string, more: object = {}, alpha = 'of the film') => ({
  kind: 'layer',
  source: { from: 'film', film: 'shown', layer, alpha },
  ...more,
});
const toAll = (operation: object, more: object = {}) => ({ kind: 'operation', operation, ...more });

/** The morning at the quay: its light over the plate, what is wet brought up, haze, focus that goes from the bollard to the tower, a grade. */
const MORNING = {
  schema: 1,
  name: 'morning at the quay',
  films: { shown: 'A' },
  pictures: { 'morning sky': { file: 'morning sky' } },
  masks: {
    'all but the sky': { of: [{ kind: 'ramp', film: 'shown', layer: 'depth', channel: 'Z', low: 4000, high: 3000 }] },
    'what is wet': {
      of: [
        { kind: 'ramp', film: 'shown', layer: 'roughness', channel: 'Y', low: 0.5, high: 0.2 },
        { kind: 'gradient', from: [0.5, 0.55], to: [0.5, 0.7], how: 'within' },
      ],
    },
  },
  entries: [
    { kind: 'layer', source: { from: 'picture', picture: 'morning sky' } },
    {
      kind: 'nest',
      name: 'light of the quay',
      entries: [light('group.sun', {}, 'cut'), light('group.sky', {}, 'cut')],
    },
    light('occlusion', { opacity: 0.2 }),
    toAll({ does: 'exposure', stops: 0.6 }, { mask: 'what is wet' }),
    toAll({ does: 'haze', film: 'shown', rgb: [0.62, 0.52, 0.46], perMetre: 0.006 }, { mask: 'all but the sky' }),
    toAll({
      does: 'focus',
      film: 'shown',
      metres: {
        keys: [
          { frame: 1, value: 5 },
          { frame: 12, value: 14 },
        ],
        ease: true,
      },
      fStop: 2,
      focalMm: 40,
      sensorMm: 20.25,
    }),
    toAll({ does: 'contrast', amount: 1.06, pivot: 0.25 }),
    toAll({
      does: 'ranges',
      shadows: { stops: 0.15, tint: [0.95, 1, 1.08] },
      lights: { stops: 0.1, tint: [1.06, 1, 0.94] },
    }),
    toAll({ does: 'glow', amount: 0.12, radius: 0.02, above: 0.9 }),
  ],
};

/** Stacks to begin with over shots that ship, by the names of the shots. */
export const SHOT_STACKS: Record<string, object> = { 'quay-dawn': MORNING };
