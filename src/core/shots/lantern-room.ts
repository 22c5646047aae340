import { joinGeometry, type Mesh, materialSchema, type Scene, type SceneDocument, sceneSchema } from '../scene';
import { burner, desk, floor, LENS_CENTRE, lens, pedestal, rail, room } from './lantern-room-parts';
import { WINDOW_GLASS } from './surfaces';

const BEAMS = [
  { name: 'seaward beam', direction: [-0.93, 0.04, -0.3655] },
  { name: 'landward beam', direction: [0.93, 0.04, 0.3655] },
];

/** The lantern room of Skerrow Light at night, about 70,000 triangles, deterministic. */
export function lanternRoom(): Scene {
  const optic = lens();
  const shell = room();
  const console_ = desk();
  const meshes: Record<string, Mesh> = {
    prisms: optic.glass,
    'lens frame': optic.brass,
    pedestal: pedestal(),
    burner: burner(),
    'low wall': shell.wall,
    'glazing bars': shell.bars,
    'window panes': shell.panes,
    roof: shell.roof,
    'iron floor': floor(),
    'instrument desk': console_.body,
    dials: console_.dials,
    handrail: rail(),
  };
  const { bytes, entries } = joinGeometry(meshes);
  const material = (m: Partial<SceneDocument['materials'][number]> & { name: string }) => materialSchema.parse(m);
  const assignment: Record<string, string> = {
    prisms: 'lens glass',
    'lens frame': 'brass',
    pedestal: 'green enamel',
    burner: 'blackened steel',
    'low wall': 'cream paint',
    'glazing bars': 'red lead',
    'window panes': 'window glass',
    roof: 'cream paint',
    'iron floor': 'iron plate',
    'instrument desk': 'oiled teak',
    dials: 'brass',
    handrail: 'brass',
  };
  const document = sceneSchema.parse({
    schema: 1,
    name: 'lantern-room',
    width: 1280,
    height: 720,
    cameras: [
      {
        name: 'gallery',
        position: [0.9, 1.62, 2.75],
        target: [-0.12, 1.5, 0],
        focalLengthMm: 24,
        fStop: 4,
        focusMetres: 2.35,
        exposure: { ev100: null, stops: -2.9 },
      },
    ],
    materials: [
      // Crown glass of the period: a faint green over a quarter of a metre.
      material({
        name: 'lens glass',
        base_color: [1, 1, 1],
        specular_roughness: 0,
        specular_ior: 1.52,
        transmission_weight: 1,
        transmission_color: [0.86, 0.95, 0.9],
        transmission_depth: 0.25,
      }),
      material({ name: 'brass', base_color: [0.78, 0.53, 0.2], base_metalness: 1, specular_roughness: 0.28 }),
      material({ name: 'green enamel', base_color: [0.025, 0.085, 0.06], specular_roughness: 0.22 }),
      material({ name: 'blackened steel', base_color: [0.2, 0.19, 0.18], base_metalness: 1, specular_roughness: 0.42 }),
      material({ name: 'cream paint', base_color: [0.6, 0.55, 0.44], specular_roughness: 0.45 }),
      material({ name: 'red lead', base_color: [0.3, 0.045, 0.025], specular_roughness: 0.35 }),
      material({
        name: 'window glass',
        ...WINDOW_GLASS,
      }),
      material({ name: 'iron plate', base_color: [0.075, 0.078, 0.085], specular_roughness: 0.33, specular_ior: 2 }),
      material({ name: 'oiled teak', base_color: [0.17, 0.075, 0.03], specular_roughness: 0.36 }),
    ],
    objects: Object.keys(meshes).map((name) => ({ name, mesh: name, material: assignment[name] })),
    lights: [
      {
        kind: 'sphere',
        name: 'burner flame',
        group: 'lamp',
        position: [0, LENS_CENTRE, 0],
        radius: 0.15,
        power: 220,
        kelvin: 2800,
      },
      {
        kind: 'rectangle',
        name: 'work lamp',
        group: 'inspection_light',
        position: [1.9, 2.9, 1.1],
        facing: [-0.62, -0.7, -0.35],
        width: 0.7,
        height: 0.4,
        power: 110,
        kelvin: 4300,
      },
      {
        kind: 'rectangle',
        name: 'dial light',
        group: 'instrument_glow',
        position: [-1.28, 1.2, 1.12],
        facing: [-0.1, -1, -0.12],
        width: 0.55,
        height: 0.06,
        power: 110,
        color: [0.25, 1.0, 0.62],
      },
      // What the ring lens gathers into two beams. They cut through the fog alone: the room is lit by the flame.
      ...BEAMS.map(({ name, direction }) => ({
        kind: 'disk' as const,
        name,
        group: 'beam',
        position: [0.8 * direction[0], LENS_CENTRE + 0.8 * direction[1], 0.8 * direction[2]],
        facing: direction,
        radius: 0.17,
        power: 120000,
        kelvin: 3000,
        spreadDegrees: 7,
        visible: false,
        gains: { seen: 0, mirrors: 0, diffuse: 0, reflection: 0, transmission: 0 },
      })),
    ],
    fogs: [{ density: 0.045, albedo: [0.96, 0.97, 1], anisotropy: 0.35 }],
    environment: {
      kind: 'gradient',
      group: 'night_sky',
      zenith: [0.12, 0.22, 0.6],
      horizon: [0.75, 1.0, 1.7],
      ground: [0.06, 0.09, 0.16],
      moon: { direction: [-0.45, 0.42, -0.8], angleDegrees: 7, luminance: 24, color: [0.85, 0.93, 1] },
    },
    geometry: { hash: '', bytes: bytes.byteLength, meshes: entries },
  });
  return { document, geometry: bytes, pictures: new Map() };
}
