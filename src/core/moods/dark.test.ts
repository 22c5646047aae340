import { emptyShot, sceneSchema } from '../scene';
import { whyDark } from '.';

const lamp = { kind: 'point', name: 'lamp', group: 'lamp', power: 10, position: [0, 3, 0] };
const scene = (light: object, more: object = {}) =>
  sceneSchema.parse({ ...emptyShot('rock'), lights: [{ ...lamp, ...light }], ...more });

test.each<[string, object, object, string, RegExp | null]>([
  ['a light', {}, {}, 'lamp', null],
  ['one that is off', { on: false }, {}, 'lamp', /switched off/],
  ['one without strength', { power: 0 }, {}, 'lamp', /no strength/],
  ['a black one', { color: [0, 0, 0] }, {}, 'lamp', /colour of its lights is black/],
  ['no light', {}, {}, 'beam', /no light of the scene/],
  ['a sun below the horizon', {}, { environment: { kind: 'sky', sun: { heightDegrees: -9 } } }, 'sun', /no strength/],
  [
    'a black gradient',
    {},
    { environment: { kind: 'gradient', group: 'sky', zenith: [0, 0, 0], horizon: [0, 0, 0], ground: [0, 0, 0] } },
    'sky',
    /colour of its lights is black/,
  ],
  ['a sky', {}, { environment: { kind: 'sky', group: 'sky' } }, 'sky', null],
])('%s', (_, light, more, group, why) => {
  const said = whyDark(scene(light, more), group);
  if (why) expect(said).toMatch(why);
  else expect(said).toBeNull();
});
