import * as fmath from '../../fmath';
import type { Form } from '../document/form';
import { box, lathe, plane, sphere } from './generate';
import type { Mesh } from './mesh';

const BEND_STEPS = 24;

/** A floor from the origin towards +z that bends up into a wall behind it; one sheet, seen from the front. */
function backdrop(width: number, depth: number, height: number, radius: number): Mesh {
  const r = Math.min(radius, depth, height) * 0.999;
  // From the front edge of the floor to the top of the wall: z, y, and the normal's z and y.
  const profile: [number, number, number, number][] = [[depth, 0, 0, 1]];
  for (let i = 0; i <= BEND_STEPS; i++) {
    const a = (Math.PI / 2) * (i / BEND_STEPS);
    const [s, c] = [fmath.sin(a), fmath.cos(a)];
    profile.push([r - r * s, r - r * c, s, c]);
  }
  profile.push([0, height, 1, 0]);
  const positions: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  profile.forEach(([z, y, nz, ny], i) => {
    positions.push(-width / 2, y, z, width / 2, y, z);
    normals.push(0, ny, nz, 0, ny, nz);
    const v = 1 - i / (profile.length - 1);
    uvs.push(0, v, 1, v);
    if (i > 0) {
      const o = (i - 1) * 2;
      indices.push(o, o + 1, o + 3, o, o + 3, o + 2);
    }
  });
  return {
    positions: new Float32Array(positions),
    normals: new Float32Array(normals),
    uvs: new Float32Array(uvs),
    indices: new Uint32Array(indices),
  };
}

/** The triangles of a form. */
export function formMesh(form: Form): Mesh {
  switch (form.kind) {
    case 'box':
      return box(form.width, form.height, form.depth);
    case 'ball':
      return sphere(form.radius, form.segments);
    case 'cylinder': {
      const { radius, height } = form;
      return lathe(
        [
          [0, -height / 2],
          [radius, -height / 2],
          [radius, height / 2],
          [0, height / 2],
        ],
        form.segments,
      );
    }
    case 'plane':
      return plane(form.width, form.depth);
    case 'backdrop':
      return backdrop(form.width, form.depth, form.height, form.radius);
  }
}
