import { type Attribute, type Deflate, type PartHeader, writeExr } from '../exr';
import { chromaticitiesOf, type Display, encodePng, encodeTiff, type WorkingSpace } from '../image';
import type { LookTable } from './operations/cube';
import type { Picture } from './picture';
import { type Showing, shownProfile, shownValues } from './shown';

/** What a file says of a picture beside it. */
export interface Saying {
  /** Name of the stack; empty for none. */
  stack: string;
  /** Header of the film that it begins with, of which windows and words are kept; null for none. */
  header: Pick<PartHeader, 'attributes' | 'dataWindow' | 'displayWindow'> | null;
  /** What its light is in. */
  space: WorkingSpace;
}

/** A picture as OpenEXR: linear light as float with alpha, premultiplied, 1 = display white. */
export async function pictureExr(
  picture: Picture,
  { stack, header, space }: Saying,
  deflate: Deflate,
): Promise<Uint8Array> {
  const { width, height, planes } = picture;
  const box = { xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 };
  const said: Record<string, Attribute> = {
    ...header?.attributes,
    chromaticities: { type: 'chromaticities', value: [...chromaticitiesOf(space)] },
    'lantern:exposure': { type: 'double', value: 1 },
    ...(stack ? { 'lantern:stack': { type: 'string', value: stack } } : {}),
  };
  const part = {
    name: 'beauty',
    channels: ['A', 'B', 'G', 'R'].map((name) => ({ name, type: 'float' as const })),
    compression: 'zip' as const,
    dataWindow: header?.dataWindow ?? box,
    displayWindow: header?.displayWindow ?? box,
    attributes: Object.fromEntries(Object.entries(said).filter(([key]) => !key.startsWith('cryptomatte/'))),
    planes: [planes[3], planes[2], planes[1], planes[0]],
  };
  return (await writeExr([part], deflate)).bytes;
}

/** What a screen is given, as words of 16 bits, channels interleaved. */
function wordsOf(planes: readonly Float32Array[]): Uint16Array {
  const out = new Uint16Array(planes[0].length * 3);
  planes.forEach((plane, c) => {
    for (let i = 0; i < plane.length; i++) out[i * 3 + c] = Math.round(plane[i] * 65535);
  });
  return out;
}

/** A picture as PNG or TIFF of 16 bits as it is shown, with the profile of the screen that it is for. */
export function shownFile(
  picture: Picture,
  as: 'png' | 'tiff',
  by: Showing,
  display: Display,
  table: (name: string) => LookTable | undefined,
): Uint8Array {
  const { width, height } = picture;
  const words = wordsOf(shownValues(picture, by, display, table));
  const profile = shownProfile(by);
  return as === 'png' ? encodePng(width, height, words, 3, profile) : encodeTiff(width, height, words, profile);
}
