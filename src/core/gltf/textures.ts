import { decodeJpeg, decodePng, whiteOf } from '../image';
import type { Picture, Texture } from '../scene';
import { asGltfError, GltfError } from './error';

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

function decodePicture(bytes: Uint8Array): Picture {
  if (bytes[0] === 0xff && bytes[1] === 0xd8) return decodeJpeg(bytes);
  if (bytes[0] === 0x89 && bytes[1] === 0x50) return decodePng(bytes);
  throw new GltfError('it is neither PNG nor JPEG');
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
      this.pictures[name] = decodePicture(this.binary.slice(from, from + view.byteLength));
    } catch (error) {
      this.warn(`${name}: ${asGltfError(error).message}`);
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
    const white = whiteOf(source.values);
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
