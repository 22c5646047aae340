import {
  between,
  type Display,
  decodeSrgb,
  displayReader,
  planesThrough,
  profileOf,
  type Space,
  whiteGains,
} from '../image';
import { type LookTable, screened } from './operations/cube';
import { encodingOf } from './operations/encodings';
import type { Picture } from './picture';
import { screenOf } from './screens';
import { type Stack, StackError } from './stack';

type Planes = readonly [Float32Array, Float32Array, Float32Array];

/** What a stack says of its light, and of how it is shown. */
export type Showing = Pick<Stack, 'space' | 'display'>;

/** The primaries of the screen that a stack is shown on: what leads there by a table is told in those that the table takes. */
export const screenSpace = ({ display }: Showing): Space =>
  display.to === 'table' ? encodingOf(display.encoding).space : screenOf(display.to).space;

/** Light of a picture on the channels of the screen: beyond 0 to 1 is what it cannot show. */
export const screenLight = ({ planes }: Picture, by: Showing): Planes =>
  planesThrough(planes, between(by.space, screenSpace(by)));

/** BT.1886 of what the curve of sRGB encodes, 0 to 1. */
const forTelevision = (v: number) => decodeSrgb(v) ** (1 / 2.4);

/**
 * What a screen is given of a picture, over black, where light without alpha (a sky, a glow) shows too: 0 to 1. `display` brings light to white of a screen with the look of
 * the scene; a table takes the place of that look. Throws `StackError` where the table is not there.
 */
export function shownValues(
  p: Picture,
  by: Showing,
  display: Display,
  table: (name: string) => LookTable | undefined,
): Planes {
  const { display: to } = by;
  if (to.to === 'table') {
    const of = table(to.table);
    if (!of) throw new StackError('display.table', `there is no table ${to.table}`);
    const made = screened(p.planes, to.encoding, of, by.space);
    for (const plane of made) for (let i = 0; i < plane.length; i++) plane[i] = Math.min(1, Math.max(0, plane[i]));
    return made;
  }
  const { curve } = screenOf(to.to);
  const light = screenLight(p, by);
  const gains = whiteGains(typeof display === 'number' ? null : display.look);
  const read = displayReader(display);
  const led = light.map((plane, c) =>
    plane.map((v) => {
      const shown = Math.min(1, read(v * gains[c]));
      return curve === 'srgb' ? shown : forTelevision(shown);
    }),
  );
  return [led[0], led[1], led[2]];
}

/** How a page shows what a stack makes: on sRGB, as far as that has the colours of a screen with other primaries. */
export const inPage = (by: Showing): Showing =>
  by.display.to === 'Display P3' ? { space: by.space, display: { to: 'sRGB' } } : by;

/** The ICC profile of what is shown; null where it is that of sRGB, which is what goes without saying, or a table's own. */
export function shownProfile({ display }: Showing): Uint8Array | null {
  if (display.to === 'table' || display.to === 'sRGB') return null;
  const { space, curve } = screenOf(display.to);
  return profileOf(space, curve);
}
