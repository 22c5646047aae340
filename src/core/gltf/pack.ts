import { GltfError } from './error';

interface Resource {
  uri?: string;
  byteLength?: number;
  bufferView?: number;
  mimeType?: string;
}
interface GltfJson {
  buffers?: Resource[];
  images?: Resource[];
  bufferViews?: { buffer: number; byteOffset?: number; byteLength: number }[];
}

/** Most bytes that a file may claim for one buffer. */
const MOST_BYTES = 2_000_000_000;

/** The file that a relative URI names, by its path below the folder of the glTF file. Throws for all others. */
export function relativePath(uri: string): string {
  if (/^[a-z][a-z0-9+.-]*:/i.test(uri) || uri.startsWith('//') || uri.startsWith('/') || uri.startsWith('\\'))
    throw new GltfError(`${uri.slice(0, 60)}: only files beside the glTF file can be read`);
  let path: string;
  try {
    path = decodeURIComponent(uri);
  } catch {
    throw new GltfError(`${uri.slice(0, 60)}: not a URI`);
  }
  const parts: string[] = [];
  for (const part of path.split(/[\\/]/)) {
    if (part === '' || part === '.') continue;
    if (part === '..') throw new GltfError(`${uri.slice(0, 60)}: leaves the folder of the glTF file`);
    parts.push(part);
  }
  return parts.join('/');
}

function fromDataUri(uri: string): Uint8Array {
  const match = /^data:[^,]*?;base64,(.*)$/s.exec(uri);
  if (!match) throw new GltfError('a data URI must be base64');
  let text: string;
  try {
    text = atob(match[1]);
  } catch {
    throw new GltfError('a data URI is not base64');
  }
  return Uint8Array.from(text, (c) => c.charCodeAt(0));
}

/**
 * A .gltf file with what it refers to as one GLB. `fileOf` gives the bytes of a path below its folder, or null.
 * Throws `GltfError` naming the resource at fault.
 */
export function packGltf(bytes: Uint8Array, fileOf: (path: string) => Uint8Array | null): Uint8Array {
  let json: GltfJson;
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes.slice()));
  } catch (error) {
    throw new GltfError(`not JSON: ${(error as Error).message}`);
  }
  if (typeof json !== 'object' || json === null || Array.isArray(json)) throw new GltfError('the JSON is no object');
  const load = (r: Resource, what: string): Uint8Array => {
    if (typeof r.uri !== 'string') throw new GltfError(`${what}: it has no uri`);
    if (r.uri.startsWith('data:')) return fromDataUri(r.uri);
    const path = relativePath(r.uri);
    const found = fileOf(path);
    if (!found) throw new GltfError(`${what}: the file ${path} is missing; choose it together with the glTF file`);
    return found;
  };
  const list = <T>(value: T[] | undefined, what: string): T[] => {
    if (value === undefined) return [];
    if (!Array.isArray(value)) throw new GltfError(`${what} is no list`);
    return value;
  };
  const parts: Uint8Array[] = [];
  let size = 0;
  const add = (part: Uint8Array) => {
    const at = size;
    parts.push(part);
    size = (size + part.length + 3) & ~3;
    if (size > MOST_BYTES) throw new GltfError(`its buffers have more than ${MOST_BYTES} bytes`);
    return at;
  };
  const starts = list(json.buffers, 'buffers').map((b, i) => {
    const part = load(b, `buffer ${i}`);
    const claimed = b.byteLength ?? 0;
    if (!(claimed <= part.length)) throw new GltfError(`buffer ${i}: ${part.length} bytes, but it says ${claimed}`);
    return add(part);
  });
  const views = list(json.bufferViews, 'bufferViews').map((v, i) => {
    const start = starts[v.buffer];
    if (start === undefined) throw new GltfError(`buffer view ${i}: there is no buffer ${v.buffer}`);
    return { ...v, buffer: 0, byteOffset: (v.byteOffset ?? 0) + start };
  });
  const images = list(json.images, 'images').map((image, i) => {
    if (image.uri === undefined) return image;
    const part = load(image, `image ${i}`);
    views.push({ buffer: 0, byteOffset: add(part), byteLength: part.length });
    const mimeType = part[0] === 0x89 ? 'image/png' : 'image/jpeg';
    const { uri: _uri, ...rest } = image;
    return { ...rest, mimeType, bufferView: views.length - 1 };
  });
  const whole = {
    ...json,
    ...(size > 0 ? { buffers: [{ byteLength: size }] } : {}),
    ...(views.length > 0 ? { bufferViews: views } : {}),
    ...(images.length > 0 ? { images } : {}),
  };
  return glbOf(whole, parts);
}

/** A GLB of a JSON and the parts of its one buffer, each aligned to four bytes. */
export function glbOf(json: object, parts: readonly Uint8Array[]): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const jsonBytes = (text.length + 3) & ~3;
  const binBytes = parts.reduce((n, p) => n + ((p.length + 3) & ~3), 0);
  const total = 20 + jsonBytes + (binBytes > 0 ? 8 + binBytes : 0);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  const words = (at: number, ...values: number[]) =>
    values.forEach((v, i) => {
      view.setUint32(at + i * 4, v, true);
    });
  words(0, 0x46546c67, 2, total, jsonBytes, 0x4e4f534a);
  out.set(text, 20);
  out.fill(0x20, 20 + text.length, 20 + jsonBytes);
  if (binBytes > 0) {
    words(20 + jsonBytes, binBytes, 0x004e4942);
    let at = 28 + jsonBytes;
    for (const p of parts) {
      out.set(p, at);
      at += (p.length + 3) & ~3;
    }
  }
  return out;
}
