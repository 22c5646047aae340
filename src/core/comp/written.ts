import { type Attribute, type Deflate, type PartHeader, writeExr } from '../exr';
import { type Display, displayReader, encodePng, whiteGains } from '../image';
import type { Picture } from './picture';

/** What a file says of a picture beside it. */
export interface Saying {
  /** Name of the stack; empty for none. */
  stack: string;
  /** Header of the film that it begins with, of which windows and words are kept; null for none. */
  header: Pick<PartHeader, 'attributes' | 'dataWindow' | 'displayWindow'> | null;
}

/** A picture as OpenEXR: linear light as float with alpha, premultiplied, 1 = display white. */
export async function pictureExr(picture: Picture, { stack, header }: Saying, deflate: Deflate): Promise<Uint8Array> {
  const { width, height, planes } = picture;
  const box = { xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 };
  const said: Record<string, Attribute> = {
    ...header?.attributes,
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

/** A picture as PNG of 16 bits as displayed: over black, where light without alpha (a sky, a glow) shows too. */
export function picturePng({ width, height, planes }: Picture, display: Display = 1): Uint8Array {
  const out = new Uint16Array(width * height * 3);
  const gains = whiteGains(typeof display === 'number' ? null : display.look);
  const read = displayReader(display);
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) out[i * 3 + c] = Math.round(Math.min(1, read(planes[c][i] * gains[c])) * 65535);
  return encodePng(width, height, out, 3);
}
