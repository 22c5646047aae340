import { meshAt, type Scene } from '../scene';
import { fogBounds } from './fog-bounds';
import { IDENTITY, worldBox } from './instancing';
import { FOG_BYTES, FOG_FIELDS, fieldOffset, MATERIAL_BYTES, MATERIAL_FIELDS } from './layout';
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

/** Writes the records of fogs and of their boundaries. */
export function packFogs(
  memory: ArrayBufferLike,
  scene: Scene,
  plan: PackPlan,
  header: (field: string, value: number) => void,
): void {
  const { fogs, objects, materials } = scene.document;
  header('fogs', plan.fogs);
  header('fogCount', fogs.length);
  const view = new DataView(memory);
  fogBounds(scene.document).forEach(({ object, fogs: own }, i) => {
    if (!objects.some((o) => o.name === object))
      throw new Error(`${fogs[own[0]].name}: no object ${object} to be within`);
    const record = plan.materials + (materials.length + i) * MATERIAL_BYTES;
    const put = (field: (typeof MATERIAL_FIELDS)[number], value: number) =>
      view.setFloat32(record + fieldOffset(MATERIAL_FIELDS, field), value, true);
    put('opacity', 1);
    put('passed', 1);
    put(
      'boundary',
      own.reduce((bits, n) => bits | (1 << n), 0),
    );
  });
  if (fogs.length === 0) return;
  const { centre, radius } = ballAbout(scene);
  fogs.forEach((fog, i) => {
    const put = (field: (typeof FOG_FIELDS)[number], value: number) =>
      view.setFloat32(plan.fogs + i * FOG_BYTES + fieldOffset(FOG_FIELDS, field), value, true);
    put('extinction', fog.density);
    put('albedoR', fog.albedo[0]);
    put('albedoG', fog.albedo[1]);
    put('albedoB', fog.albedo[2]);
    put('anisotropy', fog.anisotropy);
    put('radius', 0);
    if (fog.within !== null) return;
    put('x', centre[0]);
    put('y', centre[1]);
    put('z', centre[2]);
    put('radius', fog.radiusMetres ?? FILLED * Math.max(radius, 1e-3));
  });
}
