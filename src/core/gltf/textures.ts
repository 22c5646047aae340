import { decode as decodePng } from 'fast-png';
import { decode as decodeJpeg } from 'jpeg-js';
import { decodeSrgb } from '../image';
import type { Picture, Texture, TextureInput } from '../scene';
import { asGltfError } from './error';

/** What of a GLB's JSON its textures need. */
export interface TextureJson {
  textures?: { source?: number; sampler?: number }[];
  images?: { bufferView?: number; mimeType?: string; uri?: string; name?: string }[];
  samplers?: { wrapS?: number; wrapT?: number; magFilter?: number }[];
  bufferViews?: { byteOffset?: number; byteLength: number }[];
}

/** A reference to a texture, as materials and their extensions hold them. */
export interface TextureInfo {
  index?: number;
  texCoord?: number;
  scale?: number;
  extensions?: {
    KHR_texture_transform?: { offset?: number[]; rotation?: number; scale?: number[]; texCoord?: number };
  };
}

const WRAPS: Record<number, Texture['wrap']> = { 33071: 'clamp', 33648: 'mirror' };
const NEAREST = 9728;
/** Inputs that are colours: pictures of theirs are encoded as sRGB. */
const COLORS: TextureInput[] = ['base_color', 'specular_color', 'coat_color', 'emission_color'];
/** Pixels of the largest picture taken: 16384². */
const MOST_PIXELS = 16384 * 16384;
/** Most pixels that a byte of a packed picture stands for: zlib packs at most about 1032 to 1. */
const MOST_PIXELS_A_BYTE = 8 * 1032;

/** Refuses a PNG that claims more pixels than its bytes can hold, before memory is taken for them. */
function checkPngSize(bytes: Uint8Array): void {
  if (bytes.length < 33) throw new Error('it is cut short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  const most = Math.min(MOST_PIXELS, bytes.length * MOST_PIXELS_A_BYTE);
  if (!(width * height > 0 && width * height <= most)) throw new Error(`${width}×${height} pixels are out of range`);
}

function decodePicture(bytes: Uint8Array, what: string): Picture {
  const isPng = bytes[0] === 0x89 && bytes[1] === 0x50;
  const isJpeg = bytes[0] === 0xff && bytes[1] === 0xd8;
  if (isJpeg) {
    const { width, height, data } = decodeJpeg(bytes, {
      useTArray: true,
      formatAsRGBA: true,
      maxMemoryUsageInMB: 2048,
    });
    return { width, height, channels: 4, values: data };
  }
  if (!isPng) throw new Error(`${what} is neither PNG nor JPEG`);
  checkPngSize(bytes);
  const png = decodePng(bytes);
  const { width, height, channels, depth, palette } = png;
  const count = width * height;
  if (palette) {
    const values = new Uint8Array(count * 4);
    for (let i = 0; i < count; i++) {
      const color = palette[png.data[i]] ?? [0, 0, 0];
      values.set([color[0], color[1], color[2], color[3] ?? 255], i * 4);
    }
    return { width, height, channels: 4, values };
  }
  // 16 bits stay what they are, as floats; fewer than 8 are spread over the range.
  const values = depth === 16 ? new Float32Array(count * channels) : new Uint8Array(count * channels);
  const scale = depth === 16 ? 1 / 65535 : 255 / (2 ** Math.min(depth, 8) - 1);
  for (let i = 0; i < values.length; i++)
    values[i] = depth === 16 ? png.data[i] * scale : Math.round(png.data[i] * scale);
  return { width, height, channels, values };
}

/** Takes the pictures of a GLB as materials ask for them, each once, and says what it could not take. */
export class GltfTextures {
  /** Pictures taken so far, by the names that textures give. */
  readonly pictures: Record<string, Picture> = {};

  constructor(
    private readonly json: TextureJson,
    private readonly binary: Uint8Array,
    readonly warn: (message: string) => void,
  ) {}

  /** The picture that a texture shows; null, with a warning, when it cannot be taken. */
  private nameOf(index: number): string | null {
    const source = this.json.textures?.[index]?.source;
    const image = source === undefined ? undefined : this.json.images?.[source];
    if (source === undefined || !image) {
      this.warn(`texture ${index}: it has no picture that is read`);
      return null;
    }
    const name = `picture ${source}`;
    if (this.pictures[name]) return name;
    const view = image.bufferView === undefined ? undefined : this.json.bufferViews?.[image.bufferView];
    if (!view) {
      this.warn(`${name}: only pictures within the file are read`);
      return null;
    }
    const from = view.byteOffset ?? 0;
    try {
      if (from + view.byteLength > this.binary.byteLength) throw new Error('its bytes lie beyond the file');
      this.pictures[name] = decodePicture(this.binary.slice(from, from + view.byteLength), name);
    } catch (error) {
      this.warn(`${name}: ${asGltfError(error).message}`);
      return null;
    }
    return name;
  }

  /** A picture that drives a colour: one of 16 bits is decoded, since floats are taken as they are. */
  private decoded(name: string): string {
    const source = this.pictures[name];
    if (!(source.values instanceof Float32Array)) return name;
    const own = `${name} decoded`;
    const { channels } = source;
    const colours = channels < 3 ? 1 : 3;
    this.pictures[own] ??= {
      ...source,
      values: source.values.map((v, i) => (i % channels < colours ? decodeSrgb(v) : v)),
    };
    return own;
  }

  /** A texture driving `input`; none, with a warning, when it cannot be taken. */
  use(info: TextureInfo | undefined, input: Texture['input'], channel: Texture['channel'] = 'r'): Texture[] {
    if (info?.index === undefined) return [];
    const found = this.nameOf(info.index);
    if (found === null) return [];
    const name = COLORS.includes(input) ? this.decoded(found) : found;
    const transform = info.extensions?.KHR_texture_transform;
    if ((transform?.texCoord ?? info.texCoord ?? 0) !== 0)
      this.warn(`texture ${info.index}: the first set of texture coordinates is taken for another`);
    const sampler = this.json.samplers?.[this.json.textures?.[info.index]?.sampler ?? -1];
    if (sampler?.magFilter === NEAREST)
      this.warn(`texture ${info.index}: its texels are asked for with hard edges; they are read as smooth`);
    const [wrap, wrapV] = [WRAPS[sampler?.wrapS ?? 0] ?? 'repeat', WRAPS[sampler?.wrapT ?? 0] ?? 'repeat'];
    return [
      {
        input,
        picture: name,
        channel,
        offset: [transform?.offset?.[0] ?? 0, transform?.offset?.[1] ?? 0],
        scale: [transform?.scale?.[0] ?? 1, transform?.scale?.[1] ?? 1],
        rotationDegrees: ((transform?.rotation ?? 0) * 180) / Math.PI,
        wrap,
        ...(wrapV === wrap ? {} : { wrapV }),
        strength: info.scale ?? 1,
      },
    ];
  }

  /** A picture of which a channel is 1 where it is at least `least`, 0 elsewhere: what an alpha cutoff leaves. */
  cut(texture: Texture, least: number): Texture {
    const source = this.pictures[texture.picture];
    const name = `${texture.picture} cut at ${least}`;
    const channel = Math.min(source.channels - 1, ['r', 'g', 'b', 'a'].indexOf(texture.channel));
    const hasAlpha = source.channels === 4 || source.channels === 2;
    const count = source.width * source.height;
    const white = source.values instanceof Float32Array ? 1 : 255;
    this.pictures[name] ??= {
      width: source.width,
      height: source.height,
      channels: 1,
      values: Uint8Array.from({ length: count }, (_, i) =>
        texture.channel === 'a' && !hasAlpha
          ? 255
          : source.values[i * source.channels + channel] / white >= least
            ? 255
            : 0,
      ),
    };
    return { ...texture, picture: name, channel: 'r' };
  }
}
