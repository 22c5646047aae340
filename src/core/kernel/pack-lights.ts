import { kelvinToRgb, luminance } from '../image';
import type { Scene } from '../scene';
import { fieldOffset, LIGHT_BYTES, LIGHT_FIELDS, LIGHT_KIND } from './layout';
import type { PackPlan } from './pack-plan';

function normalize(v: readonly number[]): [number, number, number] {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  if (!(l > 0)) throw new Error('a direction of length zero');
  return [v[0] / l, v[1] / l, v[2] / l];
}

function cross(a: readonly number[], b: readonly number[]): [number, number, number] {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

export function packLights(view: DataView, scene: Scene, plan: PackPlan, groups: string[]): void {
  scene.document.lights.forEach((light, i) => {
    const at = plan.lights + i * LIGHT_BYTES;
    const put = (field: (typeof LIGHT_FIELDS)[number], value: number) =>
      view.setFloat32(at + fieldOffset(LIGHT_FIELDS, field), value, true);
    const tint = light.kelvin ? kelvinToRgb(light.kelvin) : [1, 1, 1];
    const radiance = light.color.map((c, k) => c * tint[k] * light.luminance);
    const y = luminance(radiance[0], radiance[1], radiance[2]);
    put('group', groups.indexOf(light.group));
    put('visible', light.visible ? 1 : 0);
    put('x', light.position[0]);
    put('y', light.position[1]);
    put('z', light.position[2]);
    put('radianceR', radiance[0]);
    put('radianceG', radiance[1]);
    put('radianceB', radiance[2]);
    if (light.kind === 'sphere') {
      put('kind', LIGHT_KIND.sphere);
      put('radius', light.radius);
      put('power', y * Math.PI * light.radius * light.radius);
      return;
    }
    const n = normalize(light.facing);
    const side = cross(light.up, n);
    const u = normalize(side[0] ** 2 + side[1] ** 2 + side[2] ** 2 > 1e-12 ? side : cross([1, 0, 0], n));
    const v = cross(n, u);
    put('kind', LIGHT_KIND.rectangle);
    (['x', 'y', 'z'] as const).forEach((axis, k) => {
      put(`u${axis}`, u[k]);
      put(`v${axis}`, v[k]);
      put(`n${axis}`, n[k]);
    });
    put('halfU', light.width / 2);
    put('halfV', light.height / 2);
    put('area', light.width * light.height);
    put('power', y * light.width * light.height);
  });
}
