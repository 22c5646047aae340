/** OpenEXR file layout: the words of the specification, in one table. */
export const MAGIC = 20000630;
export const VERSION = 2;
export const FLAG_TILED = 0x200;
export const FLAG_LONG_NAMES = 0x400;
export const FLAG_DEEP = 0x800;
export const FLAG_MULTI_PART = 0x1000;

export type PixelType = 'uint' | 'half' | 'float';
export const PIXEL_TYPES: PixelType[] = ['uint', 'half', 'float'];
export const PIXEL_BYTES: Record<PixelType, number> = { uint: 4, half: 2, float: 4 };

/** Packings with their code in the file, scan lines a chunk, whether they do not give back every bit, and whether light passes through half. */
const PACKINGS = {
  none: { code: 0, lines: 1, isLossy: false },
  rle: { code: 1, lines: 1, isLossy: false },
  zips: { code: 2, lines: 1, isLossy: false },
  zip: { code: 3, lines: 16, isLossy: false },
  piz: { code: 4, lines: 32, isLossy: false },
  pxr24: { code: 5, lines: 16, isLossy: true },
  b44: { code: 6, lines: 32, isLossy: true },
  b44a: { code: 7, lines: 32, isLossy: true },
  dwaa: { code: 8, lines: 32, isLossy: true, throughHalf: true },
  dwab: { code: 9, lines: 256, isLossy: true, throughHalf: true },
};
export type Compression = keyof typeof PACKINGS;
export const COMPRESSIONS: Record<
  Compression,
  { code: number; lines: number; isLossy: boolean; throughHalf?: boolean }
> = PACKINGS;

export const isLossy = (compression: Compression): boolean => COMPRESSIONS[compression].isLossy;

export type Attribute =
  | { type: 'string'; value: string }
  | { type: 'int'; value: number }
  | { type: 'float'; value: number }
  | { type: 'double'; value: number }
  | { type: 'rational'; value: [number, number] }
  | { type: 'chromaticities'; value: number[] }
  | { type: 'm44f'; value: number[] };

export interface Box {
  xMin: number;
  yMin: number;
  xMax: number;
  yMax: number;
}

export interface Channel {
  name: string;
  type: PixelType;
  /** Whether its values are linear to the eye, as its header says; packings with loss take them as they are then. */
  isPerceptual?: boolean;
}

/** Which smaller pictures stand beside a tiled one: none, halved both ways at once, or each way by itself. */
export const LEVEL_MODES = ['one', 'mipmap', 'ripmap'] as const;

/** How a part is divided into tiles; `roundsUp`: how smaller pictures beside it are halved. */
export interface Tiles {
  width: number;
  height: number;
  levels: (typeof LEVEL_MODES)[number];
  roundsUp: boolean;
}

export interface PartHeader {
  name: string;
  channels: Channel[];
  compression: Compression;
  dataWindow: Box;
  displayWindow: Box;
  /** Of a part in tiles; others are in lines. Written without smaller pictures. */
  tiles?: Tiles;
  attributes: Record<string, Attribute>;
}

/** A part to write: planes in the order of the header's channels, row by row from the top. */
export interface Part extends PartHeader {
  planes: (Float32Array | Uint32Array)[];
}

/** Words in which names of a damaged file may stand, in one line. */
const inOneLine = (words: string): string => words.replace(/[\p{Cc}\p{Zl}\p{Zp}]+/gu, '·');

/** A file that cannot be read: what is wrong and at which byte. */
export class ExrError extends Error {
  readonly fault: string;

  constructor(
    fault: string,
    /** Byte of the file; null where it is no single place. */
    readonly at: number | null,
  ) {
    const line = inOneLine(fault);
    super(`OpenEXR: ${line}${at === null ? '' : ` (byte ${at})`}`);
    this.fault = line;
  }
}

/** Bytes at random, from memory, a file or a database. */
export interface ByteSource {
  size: number;
  read(offset: number, length: number): Promise<Uint8Array>;
}

export function fromBytes(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.length,
    read: async (offset, length) => {
      if (offset < 0 || length < 0 || offset + length > bytes.length)
        throw new ExrError('file is cut short', Math.min(offset, bytes.length));
      return bytes.subarray(offset, offset + length);
    },
  };
}

export const width = (b: Box) => b.xMax - b.xMin + 1;
export const height = (b: Box) => b.yMax - b.yMin + 1;
