import { joinGeometry, type Mesh, type Scene, sceneSchema } from '../scene';
import { woodPicture } from './forms';
import {
  barometer,
  books,
  coil,
  desk,
  FLAME_HEIGHT,
  LAMP,
  lamp,
  logbook,
  mug,
  pen,
  room,
  WINDOW,
  writing,
} from './keepers-desk-parts';
import { HEMP, WINDOW_GLASS } from './surfaces';

/** The keeper's desk at dusk: a lamp in its milk-glass shade, a window to the sky. Deterministic. */
export function keepersDesk(): Scene {
  const light = lamp();
  const glassware = barometer();
  const book = logbook();
  const cup = mug();
  const shell = room();
  const [red, green, brown] = books();
  const placed: [name: string, mesh: Mesh, material: string][] = [
    ['desk', desk(), 'oak'],
    ['floor', shell.planks, 'deal'],
    ['walls', shell.walls, 'limewash'],
    ['window frame', shell.frame, 'white lead'],
    ['window pane', shell.panes, 'window glass'],
    ['lamp', light.brass, 'brass'],
    ['lamp shade', light.shade, 'milk glass'],
    ['wick', light.wick, 'soot'],
    ['barometer', glassware.brass, 'brass'],
    ['barometer face', glassware.face, 'enamel'],
    ['barometer needle', glassware.needle, 'soot'],
    ['plinth', glassware.plinth, 'ebony'],
    ['dome', glassware.dome, 'lamp glass'],
    ['logbook pages', book.pages, 'ruled paper'],
    ['logbook cover', book.cover, 'red cloth'],
    ['mug', cup.body, 'blue glaze'],
    ['tea', cup.tea, 'tea'],
    ['pen', pen(), 'ebony'],
    ['rope', coil(), 'hemp'],
    ['red books', red, 'red cloth'],
    ['green books', green, 'green cloth'],
    ['brown books', brown, 'calf'],
  ];
  const meshes = Object.fromEntries(placed.map(([name, mesh]) => [name, mesh]));
  const { bytes, entries, pictures } = joinGeometry(meshes, {
    oak: woodPicture(512, 5, [0.2, 0.115, 0.055], [0.5, 0.32, 0.17], 3),
    deal: woodPicture(256, 7, [0.22, 0.15, 0.09], [0.42, 0.31, 0.2], 8),
    entries: writing(1024),
  });
  const document = sceneSchema.parse({
    schema: 1,
    name: 'keepers-desk',
    width: 1280,
    height: 720,
    cameras: [
      {
        name: 'chair',
        position: [0.3, 1.2, 1.02],
        target: [-0.02, 0.86, -0.12],
        focalLengthMm: 36,
        fStop: 4,
        focusPoint: [0.2, 0.87, -0.2],
        blades: 7,
        catsEye: 0.25,
        exposure: { ev100: null, stops: -3.4 },
      },
    ],
    materials: [
      {
        name: 'oak',
        base_color: [1, 1, 1],
        specular_roughness: 0.34,
        coat_weight: 0.4,
        coat_roughness: 0.2,
        textures: [{ input: 'base_color', picture: 'oak' }],
      },
      {
        name: 'deal',
        base_color: [1, 1, 1],
        specular_roughness: 0.5,
        textures: [{ input: 'base_color', picture: 'deal' }],
      },
      {
        name: 'limewash',
        base_color: [0.62, 0.6, 0.54],
        base_diffuse_roughness: 0.6,
        specular_weight: 0.2,
        specular_roughness: 0.8,
      },
      { name: 'white lead', base_color: [0.7, 0.68, 0.62], specular_roughness: 0.3 },
      {
        name: 'window glass',
        ...WINDOW_GLASS,
      },
      { name: 'brass', base_color: [0.8, 0.56, 0.23], base_metalness: 1, specular_roughness: 0.24 },
      // Opal glass: more than half of the light is scattered within two millimetres, hardly any is lost.
      {
        name: 'milk glass',
        base_color: [1, 1, 1],
        specular_roughness: 0.08,
        specular_ior: 1.5,
        transmission_weight: 1,
        transmission_color: [0.42, 0.4, 0.36],
        transmission_depth: 0.002,
        transmission_scatter: [0.86, 0.9, 0.98],
        transmission_scatter_anisotropy: 0.5,
      },
      {
        name: 'lamp glass',
        base_color: [1, 1, 1],
        specular_roughness: 0,
        specular_ior: 1.5,
        transmission_weight: 1,
        transmission_color: [0.93, 0.97, 0.95],
        transmission_depth: 0.1,
      },
      { name: 'soot', base_color: [0.03, 0.028, 0.026], specular_roughness: 0.5 },
      { name: 'enamel', base_color: [0.82, 0.79, 0.7], specular_roughness: 0.2 },
      { name: 'ebony', base_color: [0.035, 0.028, 0.024], specular_roughness: 0.18 },
      {
        name: 'ruled paper',
        base_color: [1, 1, 1],
        specular_weight: 0.3,
        specular_roughness: 0.7,
        textures: [{ input: 'base_color', picture: 'entries', wrap: 'clamp' }],
      },
      { name: 'red cloth', base_color: [0.25, 0.035, 0.03], base_diffuse_roughness: 0.5, specular_roughness: 0.6 },
      { name: 'green cloth', base_color: [0.04, 0.11, 0.07], base_diffuse_roughness: 0.5, specular_roughness: 0.6 },
      { name: 'calf', base_color: [0.22, 0.11, 0.05], specular_roughness: 0.42 },
      {
        name: 'blue glaze',
        base_color: [0.06, 0.11, 0.2],
        specular_roughness: 0.1,
        coat_weight: 0.6,
        coat_roughness: 0.03,
      },
      {
        name: 'tea',
        base_color: [1, 1, 1],
        specular_roughness: 0,
        specular_ior: 'water',
        transmission_weight: 1,
        transmission_color: [0.55, 0.2, 0.05],
        transmission_depth: 0.012,
      },
      {
        name: 'hemp',
        ...HEMP,
      },
    ],
    objects: placed.map(([name, , material]) => ({ name, mesh: name, material })),
    sets: {
      lamp: ['lamp', 'lamp shade', 'wick'],
      glass: ['lamp shade', 'dome', 'window pane', 'tea'],
    },
    lights: [
      {
        kind: 'sphere',
        name: 'flame',
        group: 'lamp',
        position: [LAMP[0], LAMP[1] + FLAME_HEIGHT, LAMP[2]],
        radius: 0.038,
        power: 1100,
        kelvin: 2300,
      },
      {
        kind: 'rectangle',
        name: 'stove',
        group: 'stove',
        position: [-1.2, 0.55, 1.1],
        facing: [0.9, 0.1, -0.42],
        width: 0.4,
        height: 0.35,
        power: 55,
        kelvin: 1900,
        gains: { seen: 0 },
      },
    ],
    environment: {
      kind: 'gradient',
      group: 'dusk_sky',
      zenith: [0.7, 1.5, 4.4],
      horizon: [7.5, 5.2, 5],
      ground: [0.4, 0.5, 0.8],
      moon: { direction: [0.35, 0.06, -0.93], angleDegrees: 34, luminance: 11, color: [1, 0.52, 0.24] },
    },
    portals: [
      {
        name: 'window',
        position: [WINDOW.x, (WINDOW.sill + WINDOW.head) / 2, WINDOW.z - WINDOW.deep + 0.02],
        facing: [0, 0, 1],
        width: WINDOW.half * 2,
        height: WINDOW.head - WINDOW.sill,
      },
    ],
    geometry: { hash: '', bytes: bytes.byteLength, meshes: entries, pictures },
  });
  return { document, geometry: bytes, pictures: new Map() };
}
