import { meshAt, type Scene } from '../scene';
import { IDENTITY, worldBox } from './instancing';
import { FOG_FIELDS, fieldOffset } from './layout';
import type { PackPlan } from './pack-plan';

/** How many times the scene's own ball is filled with fog. */
const FILLED = 3;

/** Centre and radius of a ball about all objects and cameras. */
function ballAbout(scene: Scene): { centre: number[]; radius: number } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const grow = (x: number, y: number, z: number) => {
    [x, y, z].forEach((c, a) => {
      low[a] = Math.min(low[a], c);
      high[a] = Math.max(high[a], c);
    });
  };
  const { objects, geometry } = scene.document;
  for (const object of objects) {
    const { positions } = meshAt(scene.geometry, geometry.meshes.find((m) => m.name === object.mesh)!);
    const own = { low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] };
    for (let i = 0; i < positions.length; i++) {
      own.low[i % 3] = Math.min(own.low[i % 3], positions[i]);
      own.high[i % 3] = Math.max(own.high[i % 3], positions[i]);
    }
    if (positions.length === 0) continue;
    const placed = worldBox(object.transform ?? IDENTITY, own.low, own.high);
    for (const c of [placed.low, placed.high]) grow(c[0], c[1], c[2]);
  }
  for (const camera of scene.document.cameras) grow(camera.position[0], camera.position[1], camera.position[2]);
  const centre = low.map((c, a) => (c + high[a]) / 2);
  return { centre, radius: Math.sqrt(low.reduce((s, c, a) => s + ((high[a] - c) / 2) ** 2, 0)) };
}

/** Writes the fog's record. */
export function packFog(
  memory: ArrayBufferLike,
  scene: Scene,
  plan: PackPlan,
  header: (field: string, value: number) => void,
): void {
  const { fog } = scene.document;
  header('fog', fog ? plan.fog : 0);
  if (!fog) return;
  if (fog.within !== null && !scene.document.objects.some((o) => o.name === fog.within))
    throw new Error(`fog: no object ${fog.within} to be within`);
  const view = new DataView(memory);
  const put = (field: (typeof FOG_FIELDS)[number], value: number) =>
    view.setFloat32(plan.fog + fieldOffset(FOG_FIELDS, field), value, true);
  put('extinction', fog.density);
  put('albedoR', fog.albedo[0]);
  put('albedoG', fog.albedo[1]);
  put('albedoB', fog.albedo[2]);
  put('anisotropy', fog.anisotropy);
  if (fog.within !== null) return;
  const { centre, radius } = ballAbout(scene);
  put('x', centre[0]);
  put('y', centre[1]);
  put('z', centre[2]);
  put('radius', fog.radiusMetres ?? FILLED * Math.max(radius, 1e-3));
}
