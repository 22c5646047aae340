import { Document, WebIO } from '@gltf-transform/core';
import { sphere } from '../scene';
import { glbOf } from './pack';

/** A GLB for tests: a red buoy of one mesh and material, seen from the quay; `change` alters it before it is written. */
export async function buoyGlb(change: (d: Document) => void = () => {}): Promise<Uint8Array> {
  const d = new Document();
  const buffer = d.createBuffer();
  const m = sphere(1, 16);
  const attribute = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const material = d
    .createMaterial('buoy red')
    .setBaseColorFactor([0.6, 0.1, 0.05, 1])
    .setMetallicFactor(0.25)
    .setRoughnessFactor(0.4)
    .setEmissiveFactor([1, 0.5, 0]);
  const primitive = d
    .createPrimitive()
    .setAttribute('POSITION', attribute('VEC3', m.positions))
    .setAttribute('NORMAL', attribute('VEC3', m.normals))
    .setIndices(attribute('SCALAR', m.indices))
    .setMaterial(material);
  const camera = d.createCamera('quay').setType('perspective').setYFov(0.6).setAspectRatio(1.5);
  const node = d.createNode('buoy').setMesh(d.createMesh('ball').addPrimitive(primitive)).setTranslation([1, 2, 3]);
  const eye = d.createNode('quay').setCamera(camera).setTranslation([0, 0, 9]);
  d.createScene().addChild(node).addChild(eye);
  change(d);
  return new WebIO().writeBinary(d);
}

/** A GLB with its JSON changed. */
// biome-ignore lint/suspicious/noExplicitAny: a test changes raw JSON at will
export function patchJson(bytes: Uint8Array, change: (json: any) => void): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(bytes.slice(20, 20 + length)));
  change(json);
  let text = new TextEncoder().encode(JSON.stringify(json));
  while (text.length % 4) text = Uint8Array.from([...text, 32]);
  const rest = bytes.slice(20 + length);
  const out = new Uint8Array(20 + text.length + rest.length);
  const head = new DataView(out.buffer);
  out.set(bytes.slice(0, 20));
  head.setUint32(8, out.length, true);
  head.setUint32(12, text.length, true);
  out.set(text, 20);
  out.set(rest, 20 + text.length);
  return out;
}

const KINDS: Record<string, [number, number]> = {
  Float32Array: [5126, 4],
  Uint16Array: [5123, 2],
  Int16Array: [5122, 2],
  Uint8Array: [5121, 1],
  Int8Array: [5120, 1],
};
type Values = Float32Array | Uint16Array | Int16Array | Uint8Array | Int8Array;

/** Accessors of values by hand, each with its view, and the GLB of a JSON that names them by number. */
export function handMade() {
  const parts: Uint8Array[] = [];
  const bufferViews: object[] = [];
  const accessors: object[] = [];
  let size = 0;
  const view = (bytes: Uint8Array) => {
    bufferViews.push({ buffer: 0, byteOffset: size, byteLength: bytes.length });
    parts.push(bytes);
    size += (bytes.length + 3) & ~3;
    return bufferViews.length - 1;
  };
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', values: Values, normalized = false) => {
    const width = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }[type];
    const [componentType] = KINDS[values.constructor.name];
    const bufferView = view(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
    const bounds =
      type === 'VEC3'
        ? { min: [0, 1, 2].map((c) => least(values, c, -1)), max: [0, 1, 2].map((c) => least(values, c, 1)) }
        : {};
    accessors.push({ bufferView, componentType, type, count: values.length / width, normalized, ...bounds });
    return accessors.length - 1;
  };
  const glb = (json: object) =>
    glbOf(
      { asset: { version: '2.0' }, scene: 0, buffers: [{ byteLength: size }], bufferViews, accessors, ...json },
      parts,
    );
  return { view, accessor, glb };
}

const least = (values: Values, c: number, sign: number) =>
  sign *
  Math.max(
    ...Array.from(values as Float32Array)
      .filter((_, i) => i % 3 === c)
      .map((v) => sign * v),
  );
