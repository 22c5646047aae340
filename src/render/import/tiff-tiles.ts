import { decode, type TiffIfd } from 'tiff';
import { PictureError, type Samples } from '@/core/image';

const SHORT = 3;
const LONG = 4;

/**
 * One tile as a TIFF of its own with one strip, in the byte order of the file: the library that unpacks strips of any number
 * of channels reads only the first channel of tiles.
 */
function asStrip(bytes: Uint8Array, head: TiffIfd, tile: number): Uint8Array {
  const packed = bytes.subarray(head.tileOffsets[tile], head.tileOffsets[tile] + head.tileByteCounts[tile]);
  const fields: [tag: number, type: number, value: number][] = [
    [256, LONG, head.tileWidth!],
    [257, LONG, head.tileHeight!],
    [258, SHORT, head.bitsPerSample],
    [259, SHORT, head.compression],
    [262, SHORT, head.type],
    [273, LONG, 0],
    [277, SHORT, head.samplesPerPixel],
    [278, LONG, head.tileHeight!],
    [279, LONG, packed.length],
    [317, SHORT, head.predictor],
    [339, SHORT, head.sampleFormat],
  ];
  const start = 8 + 2 + fields.length * 12 + 4;
  const out = new Uint8Array(start + packed.length);
  const view = new DataView(out.buffer);
  const little = bytes[0] === 0x49;
  out.set(bytes.subarray(0, 4));
  view.setUint32(4, 8, little);
  view.setUint16(8, fields.length, little);
  fields.forEach(([tag, type, value], i) => {
    const at = 10 + i * 12;
    view.setUint16(at, tag, little);
    view.setUint16(at + 2, type, little);
    view.setUint32(at + 4, 1, little);
    if (type === SHORT) view.setUint16(at + 8, value, little);
    else view.setUint32(at + 8, tag === 273 ? start : value, little);
  });
  out.set(packed, start);
  return out;
}

/** Samples of a tiled TIFF, rows from the top, channels interleaved. Throws where a tile does not unpack. */
export function readTiles(bytes: Uint8Array, head: TiffIfd): Samples | Float64Array {
  const { width, height, samplesPerPixel: n } = head;
  const [tw, th] = [head.tileWidth!, head.tileHeight!];
  const across = Math.ceil(width / tw);
  let out: Samples | Float64Array | null = null;
  head.tileOffsets.forEach((_, tile) => {
    const { data } = decode(asStrip(bytes, head, tile), { pages: [0] })[0];
    const [x0, y0] = [(tile % across) * tw, Math.floor(tile / across) * th];
    const columns = Math.min(tw, width - x0);
    const values = data as Samples | Float64Array;
    out ??= new (values.constructor as Uint8ArrayConstructor)(width * height * n);
    for (let y = 0; y < Math.min(th, height - y0); y++)
      out.set(values.subarray(y * tw * n, (y * tw + columns) * n), ((y0 + y) * width + x0) * n);
  });
  if (!out) throw new PictureError('it has no tiles');
  return out;
}
