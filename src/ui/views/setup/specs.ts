/** How a field is shown and edited. */
export interface FieldSpec {
  path: string;
  label: string;
  tip: string;
  as:
    | { kind: 'number'; unit?: string; min: number; max: number; step: number; log?: boolean; none?: string }
    | { kind: 'switch' }
    | { kind: 'choice'; of: readonly string[] }
    | { kind: 'color' }
    | { kind: 'place'; unit?: string }
    | { kind: 'group' }
    | { kind: 'material'; none?: string }
    | { kind: 'object'; none: string }
    | { kind: 'links'; none: string }
    | { kind: 'ior' };
  /** Kinds of the item that have it; all without it. */
  only?: readonly string[];
}

export interface FieldGroup {
  title: string;
  fields: FieldSpec[];
}

const number = (
  path: string,
  label: string,
  tip: string,
  min: number,
  max: number,
  step: number,
  rest: { unit?: string; log?: boolean; none?: string; only?: readonly string[] } = {},
): FieldSpec => {
  const { only, ...as } = rest;
  return { path, label, tip, as: { kind: 'number', min, max, step, ...as }, only };
};
const toggle = (path: string, label: string, tip: string): FieldSpec => ({ path, label, tip, as: { kind: 'switch' } });
const choice = (
  path: string,
  label: string,
  tip: string,
  of: readonly string[],
  only?: readonly string[],
): FieldSpec => ({
  path,
  label,
  tip,
  as: { kind: 'choice', of },
  only,
});
const color = (path: string, label: string, tip: string): FieldSpec => ({ path, label, tip, as: { kind: 'color' } });
const place = (path: string, label: string, tip: string, unit?: string, only?: readonly string[]): FieldSpec => ({
  path,
  label,
  tip,
  as: { kind: 'place', unit },
  only,
});

const AREA = ['rectangle', 'disk', 'sphere'];
const AIMED = ['rectangle', 'disk', 'spot', 'distant'];

const roles = (at: string): FieldSpec[] =>
  [
    ['seen', 'Seen straight', 'As the camera sees its shape. 0 hides it from the camera and keeps its light.'],
    ['mirrors', 'In mirrors', 'As mirrors and clear glass show its shape.'],
    ['diffuse', 'On diffuse', 'Its light on matt surfaces.'],
    ['reflection', 'In reflection', 'Its light in reflections that are not mirror-like.'],
    ['transmission', 'Through glass', 'Its light through glass and other transmission.'],
    ['fog', 'In fog', 'Its light in fog.'],
  ].map(([key, label, tip]) => number(`${at}gains.${key}`, label, tip, 0, 4, 0.05));

const sampling = (at: string): FieldSpec[] => [
  number(
    `${at}samples`,
    'Own samples',
    'Light samples of its own at every vertex. Shared: the recipe deals its light samples out among all lights.',
    1,
    16,
    1,
    { none: 'shared' },
  ),
  number(`${at}bounces`, 'Bounces', 'Bounces up to which it gives light.', 0, 32, 1, { none: 'recipe' }),
];
const links = (at: string): FieldSpec[] => [
  {
    path: `${at}include`,
    label: 'Lights only',
    tip: 'Objects and sets that it lights, and no others.',
    as: { kind: 'links', none: 'everything' },
  },
  {
    path: `${at}exclude`,
    label: 'Not lighting',
    tip: 'Objects and sets that it does not light.',
    as: { kind: 'links', none: 'nothing left out' },
  },
];

export const LIGHT_FIELDS: FieldGroup[] = [
  {
    title: 'Strength',
    fields: [
      toggle('on', 'On', 'Off, it gives no light and keeps its settings.'),
      number('stops', 'Stops', 'Lifts its strength by powers of two.', -8, 8, 0.1, { unit: 'stops' }),
      number('power', 'Power', 'Strength before stops and colour, in the unit below.', 0, 10000, 0.1, { log: true }),
      choice(
        'unit',
        'Unit',
        'nits: of the surface, so a larger lamp gives more light. lumens and candela: of the whole lamp, whatever its size.',
        ['nits', 'lumens', 'candela'],
        AREA,
      ),
      choice(
        'unit',
        'Unit',
        'candela: along its axis. lumens: all of its light.',
        ['candela', 'lumens'],
        ['spot', 'point'],
      ),
      choice('unit', 'Unit', 'lux: on a surface facing it.', ['lux', 'nits'], ['distant']),
      number('kelvin', 'Temperature', 'Colour of a glowing body. It keeps the brightness.', 1500, 12000, 50, {
        unit: 'K',
        log: true,
        none: 'none',
      }),
      color('color', 'Colour', 'Linear light; multiplies the temperature’s colour.'),
      {
        path: 'group',
        label: 'Light group',
        tip: 'Films keep each group’s light apart, for Balance and for compositing.',
        as: { kind: 'group' },
      },
    ],
  },
  {
    title: 'Shape and place',
    fields: [
      place('position', 'Place', 'Metres from the origin.', 'm', ['rectangle', 'disk', 'sphere', 'spot', 'point']),
      place('facing', 'Facing', 'Direction that its front faces.', undefined, AIMED),
      number('width', 'Width', 'Metres across.', 0.01, 10, 0.05, { unit: 'm', log: true, only: ['rectangle'] }),
      number('height', 'Height', 'Metres up.', 0.01, 10, 0.05, { unit: 'm', log: true, only: ['rectangle'] }),
      number('radius', 'Radius', 'A larger lamp makes softer shadows.', 0.005, 5, 0.01, {
        unit: 'm',
        log: true,
        only: ['disk', 'sphere'],
      }),
      number(
        'spreadDegrees',
        'Spread',
        'Whole angle of the cone that its light keeps to; 180 spreads it evenly.',
        2,
        180,
        1,
        { unit: '°', only: ['rectangle', 'disk'] },
      ),
      number('coneDegrees', 'Cone', 'Whole angle at which its light has faded to nothing.', 1, 170, 1, {
        unit: '°',
        only: ['spot'],
      }),
      number('softness', 'Soft edge', 'Part of the cone over which it fades.', 0, 1, 0.05, { only: ['spot'] }),
      number('angleDegrees', 'Angle', 'Of its disc in the sky: 0 casts hard shadows, the sun has 0.53°.', 0, 20, 0.05, {
        unit: '°',
        only: ['distant'],
      }),
      toggle('visible', 'Shape can be met', 'Whether rays that look at the scene can meet its shape.'),
      {
        path: 'parent',
        label: 'Moves with',
        tip: 'Object whose placement carries it along.',
        as: { kind: 'object', none: 'nothing' },
      },
      {
        path: 'follow',
        label: 'Takes shape of',
        tip: 'Object whose place, direction and size it takes.',
        as: { kind: 'object', none: 'nothing' },
        only: AREA,
      },
    ],
  },
  { title: 'Whom it lights', fields: links('') },
  { title: 'Gain by role', fields: roles('') },
  { title: 'Sampling', fields: sampling('') },
];

export const CAMERA_FIELDS: FieldGroup[] = [
  {
    title: 'Exposure',
    fields: [
      number('exposure.stops', 'Stops', 'Each stop doubles the brightness of the picture.', -12, 12, 0.1, {
        unit: 'stops',
      }),
      number(
        'exposure.ev100',
        'EV at ISO 100',
        'As a meter gives it: 15 in the sun, 5 in a lit room, −2 by the moon. None: 1 nit shows as display white.',
        -6,
        18,
        0.1,
        { none: 'none' },
      ),
    ],
  },
  {
    title: 'Lens',
    fields: [
      number('focalLengthMm', 'Focal length', 'On the sensor’s width below.', 8, 300, 1, { unit: 'mm', log: true }),
      number('sensorWidthMm', 'Sensor width', 'Width of the picture on the sensor.', 4, 60, 0.5, { unit: 'mm' }),
      number('fStop', 'f-stop', '0 has everything in focus; smaller numbers blur more.', 0, 22, 0.1),
      number('focusMetres', 'Focus', 'Distance along the axis that is sharp.', 0.05, 100, 0.01, {
        unit: 'm',
        log: true,
        none: 'target',
      }),
      number('blades', 'Blades', 'Straight edges of the aperture; 0 is round.', 0, 12, 1),
      number('bladesDegrees', 'Blades turned', 'Turn of the aperture.', -90, 90, 1, { unit: '°' }),
      number('catsEye', 'Cat’s eye', 'How far the aperture narrows towards the corners.', 0, 1, 0.05),
      number('shift.0', 'Shift right', 'Of the lens against the sensor, in widths.', -0.5, 0.5, 0.01),
      number('shift.1', 'Shift up', 'Keeps uprights upright while looking higher or lower.', -0.5, 0.5, 0.01),
    ],
  },
  {
    title: 'Place',
    fields: [
      place('position', 'Place', 'Metres from the origin.', 'm'),
      place('target', 'Looks at', 'Point in the middle of the picture.', 'm'),
      number('clipNear', 'Near clip', 'Nothing nearer is seen: look past a wall from behind it.', 0, 20, 0.01, {
        unit: 'm',
      }),
      number('clipFar', 'Far clip', 'Nothing farther is seen.', 0.1, 1000, 0.1, { unit: 'm', log: true, none: 'none' }),
    ],
  },
  {
    title: 'Shutter',
    fields: [
      number('shutter.open', 'Opens', 'In frames from the frame.', -1, 1, 0.05, { unit: 'fr' }),
      number('shutter.close', 'Closes', 'In frames from the frame.', -1, 1, 0.05, { unit: 'fr' }),
    ],
  },
];

const unit = (path: string, label: string, tip: string) => number(path, label, tip, 0, 1, 0.01);

export const MATERIAL_FIELDS: FieldGroup[] = [
  {
    title: 'Base',
    fields: [
      color(
        'base_color',
        'Colour',
        'Albedo of the base in linear light. Real surfaces lie between 0.02 (soot) and 0.9 (snow).',
      ),
      unit('base_weight', 'Weight', 'How much of the base there is.'),
      unit('base_metalness', 'Metalness', '1 is a metal: its colour is that of its reflection.'),
      unit('base_diffuse_roughness', 'Diffuse roughness', 'Flattens the shading, as on plaster or the moon.'),
    ],
  },
  {
    title: 'Reflection',
    fields: [
      unit('specular_roughness', 'Roughness', '0 mirrors, 1 is matt.'),
      unit('specular_weight', 'Weight', 'Strength of the reflection of what is no metal.'),
      color('specular_color', 'Colour', 'Tint of the reflection.'),
      {
        path: 'specular_ior',
        label: 'Refractive index',
        tip: 'How strongly it bends and reflects light.',
        as: { kind: 'ior' },
      },
      unit('specular_roughness_anisotropy', 'Stretch', 'Stretches highlights across the brushing.'),
      number('geometry_tangent_degrees', 'Stretch turned', 'Turns the direction of stretched highlights.', -90, 90, 1, {
        unit: '°',
      }),
    ],
  },
  {
    title: 'Transmission',
    fields: [
      unit('transmission_weight', 'Weight', '1 lets light through, as glass does.'),
      color('transmission_color', 'Colour', 'What is left of white light after the depth below.'),
      number(
        'transmission_depth',
        'Depth',
        'Metres after which light has the colour; 0 tints at the surface.',
        0,
        5,
        0.001,
        { unit: 'm' },
      ),
      color('transmission_scatter', 'Scatter', 'Share of what is taken away that scatters on: milk glass, wax.'),
      number(
        'transmission_roughness',
        'Roughness through',
        'Roughness of what is seen through it, apart from its reflection.',
        0,
        1,
        0.01,
        { none: 'as reflection' },
      ),
      unit('transmission_dispersion_scale', 'Dispersion', 'How far it spreads colours.'),
      number('transmission_dispersion_abbe_number', 'Abbe number', 'Smaller spreads more.', 9, 91, 1),
      number(
        'transmission_priority',
        'Priority',
        'Where two solids overlap, the higher number displaces the lower: water in its glass.',
        0,
        10,
        1,
      ),
      toggle(
        'transmission_straight_shadows',
        'Straight shadows',
        'Shadow rays pass straight, without bending: windows without caustics.',
      ),
      toggle('geometry_thin_walled', 'Thin wall', 'A pane without inside, such as a window or leaf.'),
    ],
  },
  {
    title: 'Coat',
    fields: [
      unit('coat_weight', 'Weight', 'A clear layer on top, such as lacquer.'),
      unit('coat_roughness', 'Roughness', 'Of the coat.'),
      color('coat_color', 'Colour', 'Tint of the coat.'),
      { path: 'coat_ior', label: 'Refractive index', tip: 'Of the coat.', as: { kind: 'ior' } },
    ],
  },
  {
    title: 'Glow',
    fields: [
      number('emission_luminance', 'Luminance', 'Light that it gives, per area.', 0, 100000, 1, {
        unit: 'nits',
        log: true,
      }),
      color('emission_color', 'Colour', 'Of its light.'),
      { path: 'light_group', label: 'Light group', tip: 'Films keep each group’s light apart.', as: { kind: 'group' } },
      toggle('light.on', 'On', 'Off, it gives no light.'),
      toggle('emission_double_sided', 'Both sides', 'Whether its back glows too.'),
      ...roles('light.'),
      ...sampling('light.'),
    ],
  },
  { title: 'Cut-out', fields: [unit('geometry_opacity', 'Opacity', 'Below 1, rays pass by chance.')] },
];

const RAYS: [string, string][] = [
  ['camera', 'Camera'],
  ['shadow', 'Shadow'],
  ['diffuse', 'Diffuse'],
  ['reflection', 'Reflection'],
  ['transmission', 'Transmission'],
  ['fog', 'Fog'],
];

/** Of `rules` of an object or set; paths are relative to the rules. */
export const RULE_FIELDS: FieldGroup[] = [
  {
    title: 'Seen by',
    fields: RAYS.map(([ray, label]) =>
      toggle(
        `seenBy.${ray}`,
        `${label} rays`,
        ray === 'shadow' ? 'Whether it casts shadows.' : `Whether ${label.toLowerCase()} rays meet it.`,
      ),
    ),
  },
  {
    title: 'Rendered as',
    fields: [
      choice(
        'role',
        'Role',
        'catcher: unseen, but its shadow is kept for a plate. holdout: unseen, and hides what is behind it.',
        ['ordinary', 'catcher', 'holdout'],
      ),
      {
        path: 'secondaryMaterial',
        label: 'Material in light',
        tip: 'Material that all rays but the camera’s meet: a bright screen that does not light the room.',
        as: { kind: 'material', none: 'its own' },
      },
      toggle('backs', 'Backs seen', 'Whether the camera sees its back faces.'),
      toggle('castsCaustics', 'Casts caustics', 'Whether it focuses light onto matt surfaces.'),
      toggle('receivesCaustics', 'Shows caustics', 'Whether light so focused shows on it.'),
      number(
        'samples',
        'Samples ×',
        'Splits and light samples where the camera sees it, as a multiple of the recipe’s.',
        0.0625,
        16,
        0.5,
        { log: true },
      ),
    ],
  },
];

const SKY_FIELDS: FieldGroup[] = [
  {
    title: 'Sky',
    fields: [
      toggle('on', 'On', 'Off, the sky is dark; the sun stays.'),
      number('stops', 'Stops', 'Lifts the sky apart from the sun.', -8, 8, 0.1, { unit: 'stops' }),
      color('tint', 'Tint', 'Every channel of its light times this.'),
      number('turbidity', 'Haze', 'From 2, clear mountain air, to 10, thick haze.', 1.7, 10, 0.1),
      choice(
        'model',
        'Model',
        'daylight: luminances fitted to measured skies. scattering: light scattered once in the air.',
        ['daylight', 'scattering'],
      ),
      color('ground', 'Ground', 'Colour below the horizon.'),
      number('gains.seen', 'Seen', '0 lights without being seen by the camera.', 0, 1, 0.05),
      { path: 'group', label: 'Light group', tip: 'Of the sky’s light.', as: { kind: 'group' } },
    ],
  },
  {
    title: 'Sun',
    fields: [
      toggle('sun.on', 'On', 'Off, only the sky is left.'),
      number('sun.stops', 'Stops', 'Lifts the sun apart from the sky.', -8, 8, 0.1, { unit: 'stops' }),
      color('sun.tint', 'Tint', 'Every channel of its light times this.'),
      number(
        'sun.angleDegrees',
        'Size',
        'Angle of its disc; 0.53° as seen from the ground. Larger makes softer shadows.',
        0.05,
        10,
        0.01,
        { unit: '°', log: true },
      ),
      { path: 'sun.group', label: 'Light group', tip: 'Of the sun’s light.', as: { kind: 'group' } },
    ],
  },
];

const PICTURE_FIELDS: FieldGroup[] = [
  {
    title: 'Environment picture',
    fields: [
      toggle('on', 'On', 'Off, the surroundings are black.'),
      number('rotationDegrees', 'Turned', 'Counter-clockwise seen from above.', -180, 180, 1, { unit: '°' }),
      number('scale', 'Brightness', 'Nits per unit of the picture.', 0, 1000, 0.05, { log: true }),
      number('stops', 'Stops', 'Lifts its light by powers of two.', -8, 8, 0.1, { unit: 'stops' }),
      color('tint', 'Tint', 'Every channel of its light times this.'),
      number('gains.seen', 'Seen', '0 lights without being seen by the camera.', 0, 1, 0.05),
      { path: 'group', label: 'Light group', tip: 'Of its light.', as: { kind: 'group' } },
    ],
  },
];

const GRADIENT_FIELDS: FieldGroup[] = [
  {
    title: 'Gradient',
    fields: [
      toggle('on', 'On', 'Off, the surroundings are black.'),
      color('zenith', 'Zenith', 'Radiance overhead, in nits.'),
      color('horizon', 'Horizon', 'Radiance at the horizon, in nits.'),
      color('ground', 'Ground', 'Radiance below, in nits.'),
      number('stops', 'Stops', 'Lifts its light by powers of two.', -8, 8, 0.1, { unit: 'stops' }),
      color('tint', 'Tint', 'Every channel of its light times this.'),
      { path: 'group', label: 'Light group', tip: 'Of its light.', as: { kind: 'group' } },
    ],
  },
];

/** Fields of surroundings by their kind. */
export const ENVIRONMENT_FIELDS = { sky: SKY_FIELDS, picture: PICTURE_FIELDS, gradient: GRADIENT_FIELDS };

export const FOG_FIELDS: FieldGroup[] = [
  {
    title: 'Fog',
    fields: [
      number('density', 'Density', 'After 1/density metres 37 % of the light is left.', 0.0001, 5, 0.001, {
        unit: '1/m',
        log: true,
      }),
      color('albedo', 'Albedo', 'Share of what is taken away that is scattered on.'),
      number('anisotropy', 'Forwards', 'Above 0 light goes on forwards, below 0 it turns back.', -0.9, 0.9, 0.05),
      {
        path: 'within',
        label: 'Inside',
        tip: 'Object whose closed mesh holds the fog.',
        as: { kind: 'object', none: 'everywhere' },
      },
    ],
  },
];

export const LOOK_FIELDS: FieldGroup[] = [
  {
    title: 'Look',
    fields: [
      number(
        'whiteKelvin',
        'White',
        'Colour of light that shows as white; none leaves colours as they are.',
        2000,
        12000,
        50,
        { unit: 'K', log: true, none: 'none' },
      ),
      number('contrast', 'Contrast', 'Slope about middle grey.', 0.5, 2, 0.01),
      number('shoulder', 'Shoulder from', 'Display value from which highlights roll off; 1 clips them.', 0.1, 1, 0.01),
    ],
  },
];
