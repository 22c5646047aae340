import { whiteOf } from '../../image';
import type { SceneDocument } from '../document/document';
import { geometryOf, withGeometry } from './geometry';
import { type Mesh, type Picture, smoothNormals } from './mesh';
import type { Scene } from './scene';

/** Each triangle in four, `levels` times; vertices along an edge are shared by both its triangles. */
export function subdivide(mesh: Mesh, levels: number): Mesh {
  let current = mesh;
  for (let level = 0; level < levels; level++) {
    const positions = [...current.positions];
    const normals = [...current.normals];
    const uvs = current.uvs && [...current.uvs];
    const indices: number[] = [];
    const middles = new Map<number, number>();
    const count = current.positions.length / 3;
    const middle = (a: number, b: number) => {
      const key = Math.min(a, b) * count + Math.max(a, b);
      const known = middles.get(key);
      if (known !== undefined) return known;
      const at = positions.length / 3;
      for (let k = 0; k < 3; k++) positions.push((positions[a * 3 + k] + positions[b * 3 + k]) / 2);
      const n = [0, 1, 2].map((k) => normals[a * 3 + k] + normals[b * 3 + k]);
      const l = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) || 1;
      normals.push(...n.map((c) => c / l));
      if (uvs) for (let k = 0; k < 2; k++) uvs.push((uvs[a * 2 + k] + uvs[b * 2 + k]) / 2);
      middles.set(key, at);
      return at;
    };
    for (let t = 0; t < current.indices.length; t += 3) {
      const [a, b, c] = [current.indices[t], current.indices[t + 1], current.indices[t + 2]];
      const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)];
      indices.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca);
    }
    current = {
      positions: new Float32Array(positions),
      normals: new Float32Array(normals),
      uvs: uvs && new Float32Array(uvs),
      indices: new Uint32Array(indices),
    };
  }
  return current;
}

/** Value of a channel at (u, v), repeated beyond the picture, bilinearly between texel centres; bytes as 0 to 1. */
function sample(p: Picture, channel: number, u: number, v: number): number {
  const scale = 1 / whiteOf(p.values);
  const x = u * p.width - 0.5;
  const y = v * p.height - 0.5;
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const at = (i: number, j: number) => {
    const [c, r] = [((i % p.width) + p.width) % p.width, ((j % p.height) + p.height) % p.height];
    return p.values[(r * p.width + c) * p.channels + Math.min(channel, p.channels - 1)] * scale;
  };
  const [fx, fy] = [x - x0, y - y0];
  const top = at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx;
  const bottom = at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx;
  return top * (1 - fy) + bottom * fy;
}

type Displacement = NonNullable<SceneDocument['objects'][number]['displacement']>;

/** A mesh moved along its normals by the heights of a picture. */
export function displace(mesh: Mesh, picture: Picture, d: Displacement, what: string): Mesh {
  if (!mesh.uvs) throw new Error(`${what}: displacement needs texture coordinates`);
  const fine = subdivide(mesh, d.levels);
  const channel = ['r', 'g', 'b', 'a'].indexOf(d.channel);
  const positions = fine.positions.slice();
  for (let i = 0; i < positions.length / 3; i++) {
    const height = (sample(picture, channel, fine.uvs![i * 2], fine.uvs![i * 2 + 1]) - d.zero) * d.heightMetres;
    for (let k = 0; k < 3; k++) positions[i * 3 + k] += fine.normals[i * 3 + k] * height;
  }
  return { ...fine, positions, normals: smoothNormals({ ...fine, positions }) };
}

/** Whether any object of a scene is displaced. */
export function isDisplaced(scene: Scene): boolean {
  return scene.document.objects.some((o) => o.displacement !== undefined);
}

/** The scene with its displaced objects as finely divided meshes of their own. Throws with an object's name. */
export function displacedScene(scene: Scene): Scene {
  if (!isDisplaced(scene)) return scene;
  const { meshes, pictures } = geometryOf(scene);
  const { document } = scene;
  const objects = document.objects.map((o) => {
    if (o.displacement === undefined) return o;
    const picture = pictures[o.displacement.picture];
    if (!picture) throw new Error(`object ${o.name}: no picture ${o.displacement.picture}`);
    const mesh = `${o.mesh} displaced for ${o.name}`;
    meshes[mesh] = displace(meshes[o.mesh], picture, o.displacement, `object ${o.name}`);
    return { ...o, mesh, displacement: undefined };
  });
  return withGeometry({ ...scene, document: { ...document, objects } }, meshes, pictures);
}
