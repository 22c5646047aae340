import * as fmath from '../fmath';
import { joinGeometry, type Mesh, merge, type Scene, sceneSchema, sweep } from '../scene';
import { laidFlat } from './forms';
import { boat, bollard, buoy, granite, pennant, quay, rocks, sea, setts, tower } from './quay-dawn-parts';
import { HEMP, WINDOW_GLASS } from './surfaces';

const FRAMES = { first: 1, last: 48, perSecond: 24 };
/** Keys of what moves, in frames. */
const EVERY = 2;
const keys = (every: number) =>
  Array.from({ length: Math.ceil((FRAMES.last - FRAMES.first) / every) + 2 }, (_, i) => FRAMES.first + i * every);

/** A placement: turned about y, then about z, then about x, then moved. Column-major. */
function placed(yaw: number, roll: number, pitch: number, move: readonly number[]): number[] {
  const [cy, sy, cz, sz, cx, sx] = [yaw, roll, pitch].flatMap((a) => [fmath.cos(a), fmath.sin(a)]);
  const turn = ([x, y, z]: number[]) => {
    const [a, b] = [x * cy + z * sy, -x * sy + z * cy];
    const [c, d] = [a * cz - y * sz, a * sz + y * cz];
    return [c, d * cx - b * sx, d * sx + b * cx];
  };
  const columns = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ].map(turn);
  return [...columns.flatMap((c) => [...c, 0]), ...move, 1];
}

/** The quay below Skerrow Light at dawn: sun and sky, wet stones, a boat and a buoy on the swell. Deterministic. */
export function quayDawn(): Scene {
  const stones = quay();
  const sett = setts();
  const light = tower();
  const hull = boat();
  const can = buoy();
  const moored = bollard();
  const flagKeys = keys(3);
  const pennants = flagKeys.map((_, i) => pennant((2 * Math.PI * i) / 4));
  const mast = sweep(
    [
      [0, -0.1, 0],
      [0, 2.3, 0],
    ],
    0.028,
    12,
  );
  const solid: [name: string, mesh: Mesh, material: string][] = [
    ['sea', sea(), 'sea water'],
    ['quay wall', laidFlat(stones.blocks, 1.4), 'wet granite'],
    ['coping', laidFlat(stones.coping, 1.1), 'granite'],
    ['paving', stones.paving, 'mortar'],
    ['tower', light.stone, 'whitewash'],
    ['tower band', light.band, 'red paint'],
    ['gallery', light.iron, 'black iron'],
    ['lantern glass', light.glass, 'lantern glass'],
    ['bollard', moored.iron, 'black iron'],
    ['mooring rope', moored.rope, 'hemp'],
    ['rocks', rocks(), 'wet rock'],
  ];
  const meshes: Record<string, Mesh> = Object.fromEntries(solid.map(([name, mesh]) => [name, mesh]));
  sett.shapes.forEach((m, i) => {
    meshes[`sett ${i + 1}`] = m;
  });
  meshes.boat = hull.hull;
  meshes['boat wood'] = merge([hull.wood, mast]);
  meshes['buoy can'] = can.body;
  meshes['buoy band'] = can.band;
  pennants.forEach((m, i) => {
    meshes[`pennant ${i + 1}`] = m;
  });
  const { bytes, entries, pictures } = joinGeometry(meshes, { granite: granite(512) });
  const bob = (frame: number) => {
    const t = (frame / FRAMES.perSecond) * 2 * Math.PI;
    return placed(1.38 + 0.02 * fmath.sin(0.4 * t), 0.035 * fmath.sin(0.55 * t), 0.05 * fmath.sin(0.75 * t + 1), [
      -1.25,
      0.05 + 0.035 * fmath.sin(0.6 * t),
      -0.9,
    ]);
  };
  const turn = (frame: number) => {
    const t = frame / FRAMES.perSecond;
    return placed(2.6 * t, 0.16 * fmath.sin(2.4 * t), 0.13 * fmath.sin(3.1 * t + 0.7), [
      -3.6,
      0.03 + 0.06 * fmath.sin(3 * t),
      -3.4,
    ]);
  };
  const motion = (at: (frame: number) => number[]) => keys(EVERY).map((frame) => ({ frame, transform: at(frame) }));
  const atMast = (frame: number) => {
    const m = bob(frame);
    const [x, y] = [0, 2.12];
    return [
      ...placed(2.5, 0, 0, [0, 0, 0]).slice(0, 12),
      m[12] + m[0] * x + m[4] * y,
      m[13] + m[1] * x + m[5] * y,
      m[14] + m[2] * x + m[6] * y,
      1,
    ];
  };
  const document = sceneSchema.parse({
    schema: 1,
    name: 'quay-dawn',
    width: 1280,
    height: 720,
    frames: FRAMES,
    cameras: [
      {
        name: 'harbour master',
        position: [3.15, 2.55, 6.6],
        target: [0.6, 3.35, -6],
        focalLengthMm: 27,
        fStop: 8,
        focusMetres: 6,
        blades: 6,
        shutter: { open: -0.25, close: 0.25 },
        exposure: { ev100: 12.2, stops: 0 },
      },
      {
        name: 'from the boat',
        position: [-2.6, 0.95, 4.9],
        target: [3.4, 3.6, -12],
        focalLengthMm: 32,
        fStop: 5.6,
        focusMetres: 9,
        exposure: { ev100: 12.2, stops: 0 },
        size: { width: 1024, height: 768 },
      },
    ],
    materials: [
      { name: 'sea water', base_color: [0.012, 0.03, 0.034], specular_roughness: 0.06, specular_ior: 'water' },
      {
        name: 'granite',
        base_color: [1, 1, 1],
        specular_roughness: 0.45,
        textures: [{ input: 'base_color', picture: 'granite' }],
      },
      {
        name: 'wet granite',
        base_color: [0.5, 0.52, 0.5],
        specular_roughness: 0.25,
        coat_weight: 0.8,
        coat_roughness: 0.12,
        coat_ior: 'water',
        textures: [{ input: 'base_color', picture: 'granite' }],
      },
      {
        name: 'wet sett',
        base_color: [0.12, 0.115, 0.11],
        specular_roughness: 0.3,
        coat_weight: 1,
        coat_roughness: 0.08,
        coat_ior: 'water',
      },
      { name: 'mortar', base_color: [0.1, 0.095, 0.085], base_diffuse_roughness: 0.5, specular_roughness: 0.6 },
      {
        name: 'wet rock',
        base_color: [0.055, 0.053, 0.05],
        specular_roughness: 0.4,
        coat_weight: 0.7,
        coat_roughness: 0.2,
        coat_ior: 'water',
      },
      { name: 'whitewash', base_color: [0.72, 0.71, 0.67], base_diffuse_roughness: 0.4, specular_roughness: 0.6 },
      { name: 'red paint', base_color: [0.34, 0.045, 0.03], specular_roughness: 0.35 },
      { name: 'black iron', base_color: [0.03, 0.03, 0.033], specular_roughness: 0.4 },
      {
        name: 'lantern glass',
        ...WINDOW_GLASS,
      },
      {
        name: 'hemp',
        ...HEMP,
      },
      {
        name: 'blue paint',
        base_color: [0.035, 0.1, 0.2],
        specular_roughness: 0.28,
        coat_weight: 0.5,
        coat_roughness: 0.1,
      },
      { name: 'larch', base_color: [0.42, 0.24, 0.11], specular_roughness: 0.4 },
      { name: 'buoy green', base_color: [0.02, 0.16, 0.075], specular_roughness: 0.3 },
      { name: 'white band', base_color: [0.75, 0.75, 0.72], specular_roughness: 0.4 },
      {
        name: 'bunting',
        base_color: [0.6, 0.05, 0.035],
        base_diffuse_roughness: 0.5,
        specular_weight: 0.2,
        specular_roughness: 0.7,
      },
    ],
    objects: [
      ...solid.map(([name, , material]) => ({ name, mesh: name, material })),
      ...sett.places.map((p, i) => ({
        name: `sett ${String(i + 1).padStart(4, '0')}`,
        mesh: `sett ${p.shape + 1}`,
        material: 'wet sett',
        transform: p.transform,
      })),
      { name: 'boat', mesh: 'boat', material: 'blue paint', motion: motion(bob) },
      { name: 'boat wood', mesh: 'boat wood', material: 'larch', motion: motion(bob) },
      { name: 'buoy', mesh: 'buoy can', material: 'buoy green', motion: motion(turn) },
      { name: 'buoy band', mesh: 'buoy band', material: 'white band', motion: motion(turn) },
      {
        name: 'pennant',
        mesh: 'pennant 1',
        material: 'bunting',
        motion: motion(atMast),
        shapes: flagKeys.map((frame, i) => ({ frame, mesh: `pennant ${i + 1}` })),
      },
    ],
    sets: {
      boat: ['boat', 'boat wood', 'pennant'],
      buoy: ['buoy', 'buoy band'],
      tower: ['tower', 'tower band', 'gallery', 'lantern glass'],
      setts: sett.places.map((_, i) => `sett ${String(i + 1).padStart(4, '0')}`),
    },
    environment: {
      kind: 'sky',
      group: 'sky',
      model: 'scattering',
      turbidity: 3.5,
      sun: { group: 'sun', heightDegrees: 7.5, bearingDegrees: 300, angleDegrees: 1.2 },
    },
    geometry: { hash: '', bytes: bytes.byteLength, meshes: entries, pictures },
  });
  return { document, geometry: bytes, pictures: new Map() };
}
