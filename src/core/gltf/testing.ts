import { Document, WebIO } from '@gltf-transform/core';
import { sphere } from '../scene';

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
