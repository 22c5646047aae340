import { readGlb, writeGlb } from '@/core/gltf';
import { type Mesh, merge, meshAt, type Scene, sphere, sweep } from '@/core/scene';
import { SHOTS } from '@/core/shots';
import { numbers, testScene } from '@/render/testing';

/** A straight rod in sixteen pieces. */
function rod(a: number[], b: number[]): [number, number, number][] {
  return Array.from({ length: 17 }, (_, i) => a.map((c, k) => c + ((b[k] - c) * i) / 16) as [number, number, number]);
}

/** About 248,000 triangles with long diagonal rods among balls: hard for a plain hierarchy of boxes. */
export function hardScene(environment: [number, number, number] | null = null): Scene {
  const next = numbers(5);
  const at = (): [number, number, number] => [next() * 20 - 10, next() * 20 - 10, next() * 20 - 10];
  const parts: Mesh[] = [];
  for (let i = 0; i < 400; i++) parts.push(sweep(rod(at(), at()), 0.02 + next() * 0.02, 12));
  for (let i = 0; i < 41; i++) {
    const [x, y, z] = at();
    const ball = sphere(0.3 + next() * 0.6, 48);
    const positions = ball.positions.map((v, k) => v + [x, y, z][k % 3]);
    parts.push({ ...ball, positions });
  }
  return testScene({
    meshes: { thicket: merge(parts) },
    environment,
    camera: { position: [0, 0, 24], target: [0, 0, 0], focalLengthMm: 30 },
  });
}

/** A thousand placings of a float of some ten thousand triangles: ten million in the world. */
export function instancedScene(): Scene {
  const next = numbers(7);
  const scene = testScene({
    meshes: { float: sphere(0.5, 101) },
    camera: { position: [0, 0, 24], target: [0, 0, 0], focalLengthMm: 30 },
  });
  const objects = Array.from({ length: 1000 }, (_, i) => {
    const [a, k] = [next() * 6.28, 0.4 + next()];
    const [c, s] = [Math.cos(a) * k, Math.sin(a) * k];
    const transform = [c, 0, -s, 0, 0, k, 0, 0, s, 0, c, 0, next() * 20 - 10, next() * 20 - 10, next() * 20 - 10, 1];
    return { name: `float ${i}`, mesh: 'float', material: 'float', transform };
  });
  return { ...scene, document: { ...scene.document, objects } };
}

/** The thicket as a GLB file brings it in. */
export async function glbScene(): Promise<Scene> {
  const scene = hardScene([1, 1, 1]);
  return (await readGlb(writeGlb(scene.document, scene), 'thicket')).scene;
}

export const lanternRoom = (): Scene => SHOTS['lantern-room']();

/** All triangles of a scene as one mesh, for the yardsticks. Objects carry no transforms here. */
export function oneMesh(scene: Scene): Mesh {
  const entries = new Map(scene.document.geometry.meshes.map((m) => [m.name, m]));
  return merge(scene.document.objects.map((o) => meshAt(scene.geometry, entries.get(o.mesh)!)));
}
