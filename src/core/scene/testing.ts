import { Document, WebIO } from '@gltf-transform/core';
import { sphere } from './generate';

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
