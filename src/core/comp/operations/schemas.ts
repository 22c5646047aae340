import { z } from 'zod';
import { TABLE_ENCODINGS } from './encodings';

const finite = z.number();
const unit = finite.min(0).max(1);
const rgb = z.tuple([finite.min(0).max(1000), finite.min(0).max(1000), finite.min(0).max(1000)]);
const stops = finite.min(-30).max(30);
const curve = z
  .array(z.tuple([unit, unit]))
  .max(16)
  .default([]);
const range = z.strictObject({ stops: stops.default(0), tint: rgb.default([1, 1, 1]) }).prefault({});

const depthLayer = z.string().min(1).max(255).default('depth');

/** What operations there are and what they take; without settings each of them is the identity. One a file beside this. */
export const OPERATION_SCHEMAS = [
  z
    .strictObject({ does: z.literal('exposure'), stops: stops.default(0), tint: rgb.default([1, 1, 1]) })
    .describe('Light times two to the power of stops, times a colour.'),
  z
    .strictObject({ does: z.literal('white'), rgb: rgb.default([1, 1, 1]) })
    .describe('What has this colour becomes grey of the same luminance.'),
  z
    .strictObject({
      does: z.literal('contrast'),
      amount: finite.min(0).max(10).default(1),
      pivot: finite.min(1e-6).max(1e6).default(0.18),
    })
    .describe('Slope in stops about a pivot of linear light.'),
  z
    .strictObject({ does: z.literal('saturation'), amount: finite.min(0).max(10).default(1) })
    .describe('Distance of colours from grey of their luminance, which stays.'),
  z
    .strictObject({
      does: z.literal('ranges'),
      low: finite.min(1e-6).max(1e6).default(0.045),
      high: finite.min(1e-6).max(1e6).default(0.72),
      widthStops: finite.min(0.1).max(20).default(4),
      shadows: range,
      middle: range,
      lights: range,
    })
    .describe(
      'Gains of the dark, the middle and the light, which part at two levels of linear luminance over so many stops.',
    ),
  z
    .strictObject({ does: z.literal('shoulder'), from: unit.default(1) })
    .describe('Rolls off light from a value on towards white; 1 leaves it.'),
  z
    .strictObject({ does: z.literal('vignette'), amount: unit.default(0), from: unit.default(0.5) })
    .describe('Darkens towards the corners: from a distance on (1 is a corner), by a share at the corner.'),
  z
    .strictObject({ does: z.literal('soften'), radius: finite.min(0).max(1).default(0) })
    .describe('Blur by a Gauss of this deviation, in parts of the height.'),
  z
    .strictObject({
      does: z.literal('sharpen'),
      radius: finite.min(0).max(0.1).default(0.002),
      amount: finite.min(0).max(10).default(0),
    })
    .describe('What a blur of this deviation takes away, added so many times.'),
  z
    .strictObject({
      does: z.literal('glow'),
      amount: finite.min(0).max(10).default(0),
      radius: finite.min(0).max(1).default(0.02),
      above: finite.min(0).max(1e6).default(0),
    })
    .describe('Light that spreads and is added: a share of all of it, or of what is above a level.'),
  z
    .strictObject({
      does: z.literal('focus'),
      film: z.string().min(1).max(120),
      /** The layer of the film that tells distances, in metres. */
      layer: depthLayer,
      metres: finite.min(1e-3).max(1e6),
      fStop: finite.min(0.1).max(1000).nullable().default(null),
      focalMm: finite.min(1).max(5000).default(50),
      sensorMm: finite.min(1).max(1000).default(24),
      blades: finite.min(0).max(16).default(0),
      bladesDegrees: finite.min(-360).max(360).default(0),
    })
    .describe('Blur by distance from where a lens is focused.'),
  z
    .strictObject({
      does: z.literal('table'),
      table: z.string().min(1).max(120),
      encoding: z.enum(TABLE_ENCODINGS),
    })
    .describe(
      'A look table, and how light is encoded on its way into it and out of it: Rec.709 linear or by the curve of sRGB, or ACEScg, or ACEScct.',
    ),
  z
    .strictObject({ does: z.literal('curves'), all: curve, red: curve, green: curve, blue: curve })
    .describe(
      'Curves on light as sRGB encodes it, through (0, 0) and (1, 1) and these points; beyond they go on straight.',
    ),
  z
    .strictObject({
      does: z.literal('haze'),
      film: z.string().min(1).max(120),
      layer: depthLayer,
      rgb: z.tuple([finite.min(0), finite.min(0), finite.min(0)]).default([0.5, 0.5, 0.5]),
      perMetre: finite.min(0).max(1000).default(0),
    })
    .describe(
      'Fog by the depth of a film: what is left of light from behind goes by the way, and a colour of its own takes its place.',
    ),
] as const;
