import { applied, between, decodeSrgb, encodeSrgb, luminanceWeights, type WorkingSpace } from '../../image';
import { bentBy, endless, gainsOf, type Points, type Ranges, rolledFrom } from '../operations/tone';
import { graded, type Picture, type Rgb, scaled } from '../picture';

const luminance = (rgb: Rgb, space: WorkingSpace): number =>
  luminanceWeights(space).reduce((sum, w, c) => sum + w * rgb[c], 0);

/** A colour that is named in linear Rec.709, in the space that is worked in. */
export function coloured(rgb: Rgb, space: WorkingSpace): Rgb {
  const [r, g, b] = applied(between('Rec.709', space), rgb);
  return [r, g, b];
}

/** Light times two to the power of `stops`, times a colour. */
export function exposure(p: Picture, { stops, tint }: { stops: number; tint: Rgb }): Picture {
  const k = 2 ** stops;
  return scaled(p, [tint[0] * k, tint[1] * k, tint[2] * k]);
}

/** What has the colour `rgb` becomes grey of the same luminance: a factor a channel [von Kries 1902, on the channels of the working space]. */
export function white(p: Picture, { rgb: named }: { rgb: Rgb }, space: WorkingSpace): Picture {
  const rgb = coloured(named, space);
  const y = luminance(rgb, space);
  if (named.every((c) => c === named[0]) || rgb.some((c) => c <= 0)) return p;
  return scaled(p, [y / rgb[0], y / rgb[1], y / rgb[2]]);
}

/** Slope of every channel in stops about `pivot`. */
export function contrast(p: Picture, { amount, pivot }: { amount: number; pivot: number }): Picture {
  if (amount === 1) return p;
  const bent = bentBy({ amount, pivot });
  return graded(p, (rgb) => {
    for (let c = 0; c < 3; c++) rgb[c] = bent(rgb[c]);
  });
}

/** Distance of colours from grey of their luminance, times `amount`; luminance stays. */
export function saturation(p: Picture, { amount }: { amount: number }, space: WorkingSpace): Picture {
  if (amount === 1) return p;
  return graded(p, (rgb) => {
    const y = luminance(rgb, space);
    for (let c = 0; c < 3; c++) rgb[c] = y + amount * (rgb[c] - y);
  });
}

/** Gains of the dark, the middle and the light of a picture, by luminance. */
export function ranges(p: Picture, settings: Ranges, space: WorkingSpace): Picture {
  const gains = gainsOf(settings);
  if (!gains) return p;
  return graded(p, (rgb) => {
    const k = gains(luminance(rgb, space));
    for (let c = 0; c < 3; c++) rgb[c] *= k[c];
  });
}

/** Rolls highlights off. With 1 nothing changes. */
export function shoulder(p: Picture, { from }: { from: number }): Picture {
  if (from === 1) return p;
  const rolled = rolledFrom(from);
  return graded(p, (rgb) => {
    for (let c = 0; c < 3; c++) rgb[c] = rolled(rgb[c]);
  });
}

/** Curves on light as sRGB encodes it: one of all channels, then one of each. */
export function curves(
  p: Picture,
  { all, red, green, blue }: Record<'all' | 'red' | 'green' | 'blue', Points>,
): Picture {
  if ([all, red, green, blue].every((c) => c.length === 0)) return p;
  const [whole, ...each] = [all, red, green, blue].map(endless);
  return graded(p, (rgb) => {
    for (let c = 0; c < 3; c++) rgb[c] = decodeSrgb(each[c](whole(encodeSrgb(rgb[c]))));
  });
}
