import { decode as decodePng } from 'fast-png';
import { decode as decodeJpeg } from 'jpeg-js';
import type { Picture, Texture } from '../scene';

/** What of a GLB's JSON its textures need. */
export interface TextureJson {
  textures?: { source?: number; sampler?: number }[];
  images?: { bufferView?: number; mimeType?: string; uri?: string; name?: string }[];
  samplers?: { wrapS?: number; wrapT?: number }[];
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

const CLAMP_TO_EDGE = 33071;
const MIRRORED_REPEAT = 33648;
/** Pixels of the largest picture taken: 16384². */
const MOST_PIXELS = 16384 * 16384;

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
  const png = decodePng(bytes);
  const { width, height, channels, depth, palette } = png;
  if (width * height > MOST_PIXELS) throw new Error(`${what}: ${width}×${height} pixels are too many`);
  const count = width * height;
  if (palette) {
    const values = new Uint8Array(count * 4);
    for (let i = 0; i < count; i++) {
      const color = palette[png.data[i]] ?? [0, 0, 0];
      values.set([color[0], color[1], color[2], color[3] ?? 255], i * 4);
    }
    return { width, height, channels: 4, values };
  }
  const values = new Uint8Array(count * channels);
  // 16 bits keep their high byte; fewer than 8 are spread over the range.
  const scale = depth === 16 ? 1 / 257 : 255 / (2 ** Math.min(depth, 8) - 1);
  for (let i = 0; i < values.length; i++) values[i] = Math.round(png.data[i] * scale);
  return { width, height, channels, values };
}

/** Takes the pictures of a GLB as materials ask for them, each once, and says what it could not take. */
export class GltfTextures {
  /** Pictures taken so far, by the names that textures give. */
  readonly pictures: Record<string, Picture> = {};

  constructor(
    private readonly json: TextureJson,
    private readonly binary: Uint8Array,
    private readonly warn: (message: string) => void,
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
      this.warn(`${name}: ${(error as Error).message}`);
      return null;
    }
    return name;
  }

  /** A texture driving `input`; none, with a warning, when it cannot be taken. */
  use(info: TextureInfo | undefined, input: Texture['input'], channel: Texture['channel'] = 'r'): Texture[] {
    if (info?.index === undefined) return [];
    const name = this.nameOf(info.index);
    if (name === null) return [];
    const transform = info.extensions?.KHR_texture_transform;
    if ((transform?.texCoord ?? info.texCoord ?? 0) !== 0)
      this.warn(`texture ${info.index}: the first set of texture coordinates is taken for another`);
    const sampler = this.json.samplers?.[this.json.textures?.[info.index]?.sampler ?? -1];
    if (sampler?.wrapS === MIRRORED_REPEAT || sampler?.wrapT === MIRRORED_REPEAT)
      this.warn(`texture ${info.index}: mirrored repetition is read as plain`);
    return [
      {
        input,
        picture: name,
        channel,
        offset: [transform?.offset?.[0] ?? 0, transform?.offset?.[1] ?? 0],
        scale: [transform?.scale?.[0] ?? 1, transform?.scale?.[1] ?? 1],
        rotationDegrees: ((transform?.rotation ?? 0) * 180) / Math.PI,
        wrap: sampler?.wrapS === CLAMP_TO_EDGE ? 'clamp' : 'repeat',
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
    this.pictures[name] ??= {
      width: source.width,
      height: source.height,
      channels: 1,
      values: Uint8Array.from({ length: count }, (_, i) =>
        texture.channel === 'a' && !hasAlpha
          ? 255
          : source.values[i * source.channels + channel] / 255 >= least
            ? 255
            : 0,
      ),
    };
    return { ...texture, picture: name, channel: 'r' };
  }
}
