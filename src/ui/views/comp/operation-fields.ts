import type { Lens, Operation, TableEncoding } from '@/core/comp';

type Does = Operation['does'];

/** A number of an operation, and how it is said. */
export interface NumberOf {
  kind: 'number';
  /** Keys below the operation. */
  at: readonly string[];
  label: string;
  unit: string;
  step: number;
  least: number;
  most: number;
  /** What one of the unit is in the stack. */
  per: number;
  /** Written where it is null. */
  off?: string;
}
export interface ColorOf {
  kind: 'color';
  at: readonly string[];
  label: string;
}
export type FieldOf = NumberOf | ColorOf;

/** How light goes into a table. */
export const ENCODING_WORDS: Record<TableEncoding, string> = {
  srgb: 'encoded as sRGB',
  linear: 'linear Rec.709',
  ACEScg: 'linear ACEScg',
  ACEScct: 'encoded as ACEScct',
};

/** An operation as a sentence: words with numbers and colours in them; and what else can be set, in rows. */
interface Said {
  tip: string;
  sentence: readonly (string | FieldOf)[];
  more?: readonly FieldOf[];
}

const number = (
  at: string,
  label: string,
  unit: string,
  [least, most, step]: readonly [number, number, number],
  rest: Partial<NumberOf> = {},
): NumberOf => ({ kind: 'number', at: at.split('.'), label, unit, least, most, step, per: 1, ...rest });
const percent = (at: string, label: string, most: number, rest: Partial<NumberOf> = {}): NumberOf =>
  number(at, label, '%', [0, most, 1], { per: 0.01, ...rest });
const color = (at: string, label: string): ColorOf => ({ kind: 'color', at: at.split('.'), label });

const STOPS = [-30, 30, 0.1] as const;

export const OPERATIONS: Record<Does, Said> = {
  exposure: {
    tip: 'Brighter or darker by stops, and tinted. Light stays light: nothing is cut.',
    sentence: ['Light by', number('stops', 'exposure', 'stops', STOPS), ', tinted', color('tint', 'tint')],
  },
  white: {
    tip: 'What has this colour becomes grey. Take it from the picture: a wall that should be white.',
    sentence: ['White is', color('rgb', 'white point')],
  },
  contrast: {
    tip: 'Slope in stops about a pivot that stays as it is.',
    sentence: [
      'Contrast of',
      number('amount', 'contrast', '', [0, 10, 0.02]),
      'about',
      number('pivot', 'pivot', '', [0.000001, 1e6, 0.01]),
    ],
  },
  saturation: {
    tip: 'Colours nearer to grey or farther from it; luminance stays.',
    sentence: ['Colours at', percent('amount', 'saturation', 1000)],
  },
  ranges: {
    tip: 'The dark, the middle and the light, each by stops and tint. They part at two levels of luminance.',
    sentence: [
      'Shadows',
      number('shadows.stops', 'shadows', '', STOPS),
      ', middle',
      number('middle.stops', 'middle', '', STOPS),
      ', lights',
      number('lights.stops', 'lights', 'stops', STOPS),
    ],
    more: [
      color('shadows.tint', 'tint of the shadows'),
      color('middle.tint', 'tint of the middle'),
      color('lights.tint', 'tint of the lights'),
      number('low', 'shadows end at', '', [0.000001, 1e6, 0.005]),
      number('high', 'lights begin at', '', [0.000001, 1e6, 0.02]),
      number('widthStops', 'they part over', 'stops', [0.1, 20, 0.1]),
    ],
  },
  shoulder: {
    tip: 'Rolls highlights off towards white from a value on, so that they do not burn out at once.',
    sentence: ['Highlights roll off from', percent('from', 'shoulder', 100)],
  },
  vignette: {
    tip: 'Corners become darker, from a distance on; 100 % away is a corner.',
    sentence: ['Corners darker by', percent('amount', 'vignette', 100), 'from', percent('from', 'vignette from', 100)],
  },
  soften: {
    tip: 'A blur, in parts of the picture’s height.',
    sentence: ['Softer by', percent('radius', 'softening', 100, { step: 0.05 }), 'of the height'],
  },
  sharpen: {
    tip: 'What a blur takes away, added. Even areas stay as they are.',
    sentence: [
      'Sharper by',
      percent('amount', 'sharpening', 1000, { step: 5 }),
      'at',
      percent('radius', 'sharpening radius', 10, { step: 0.02 }),
      'of the height',
    ],
  },
  glow: {
    tip: 'Light that spreads and is added, in linear light: twice the lamp has twice the glow.',
    sentence: [
      'Glow of',
      percent('amount', 'glow', 1000),
      ',',
      percent('radius', 'glow radius', 100, { step: 0.25 }),
      'wide, of light above',
      number('above', 'glow above', '', [0, 1e6, 0.05]),
    ],
  },
  focus: {
    tip: 'Blur by distance, as a lens has it, after all that is below was joined: shadows, fog and plate blur with what they lie on.',
    sentence: [
      'Focus at',
      number('metres', 'focus distance', 'm', [0.001, 1e6, 0.1]),
      ', f/',
      number('fStop', 'f-stop', '', [0.1, 1000, 0.1], { off: 'off' }),
    ],
    more: [
      number('focalMm', 'focal length', 'mm', [1, 5000, 1]),
      number('sensorMm', 'height of the sensor', 'mm', [1, 1000, 0.5]),
      number('blades', 'edges of the aperture', '', [0, 16, 1]),
      number('bladesDegrees', 'turned by', '°', [-360, 360, 1]),
    ],
  },
  table: {
    tip: 'A look table of a .cube file, with how light is encoded on its way into it: the file does not say.',
    sentence: ['Look table'],
  },
  curves: {
    tip: 'Curves on light as sRGB encodes it: all channels, and each.',
    sentence: ['Curves'],
  },
  haze: {
    tip: 'Fog by depth: what is farther away loses its light to a colour.',
    sentence: [
      'Haze of',
      percent('perMetre', 'haze', 100000, { step: 0.1 }),
      'a metre,',
      color('rgb', 'colour of the haze'),
    ],
  },
};

/** What a new operation is set to, so that it is seen to do something but little; `film`: the film whose depth it goes by. */
export function freshOperation(does: Does, film: string, camera: Lens): object {
  switch (does) {
    case 'focus':
      return { does, film, ...camera };
    case 'haze':
      return { does, film, perMetre: 0.01 };
    case 'glow':
      return { does, amount: 0.1, above: 1 };
    case 'vignette':
      return { does, amount: 0.2 };
    case 'shoulder':
      return { does, from: 0.8 };
    case 'sharpen':
      return { does, amount: 0.5 };
    case 'soften':
      return { does, radius: 0.002 };
    default:
      return { does };
  }
}
