import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Film, type FilmLayers, makeLayers } from '@/core/film';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { joinGeometry, type Mesh, type Picture, type Scene, sceneSchema } from '@/core/scene';
import { RenderPool } from './pool/pool';
import { spawnInline } from './pool/spawn-inline';

/** The compiled kernel, as `npm run setup` leaves it. */
export function testKernel(): WebAssembly.Module {
  return new WebAssembly.Module(readFileSync(join(__dirname, '../../public/wasm/kernel.wasm')));
}

export interface TestScene {
  meshes?: Record<string, Mesh>;
  /** Material fields by name; a mesh takes the one named like it. */
  materials?: Record<string, Record<string, unknown>>;
  lights?: Record<string, unknown>[];
  /** Radiance of an even environment, or a whole one. */
  environment?: [number, number, number] | Record<string, unknown> | null;
  pictures?: Record<string, Picture>;
  fog?: Record<string, unknown>;
  fogs?: Record<string, unknown>[];
  camera?: Record<string, unknown>;
  /** Rules by object and by set, and what the sets hold. */
  rules?: Record<string, object>;
  sets?: Record<string, string[]>;
  setRules?: Record<string, object>;
}

/** A small scene: one object a mesh, under an even environment. */
export function testScene(t: TestScene): Scene {
  const meshes = t.meshes ?? {};
  const { bytes, entries, pictures } = joinGeometry(meshes, t.pictures);
  const names = Object.keys(meshes);
  const env = t.environment;
  const document = sceneSchema.parse({
    schema: 1,
    name: 'test',
    cameras: [{ name: 'cam', position: [0, 0, 5], target: [0, 0, 0], ...t.camera }],
    materials: [...new Set([...names, ...Object.keys(t.materials ?? {}), 'none'])].map((name) => ({
      name,
      ...t.materials?.[name],
    })),
    objects: names.map((name) => ({ name, mesh: name, material: name, rules: t.rules?.[name] })),
    sets: t.sets ?? {},
    setRules: t.setRules ?? {},
    lights: t.lights ?? [],
    fogs: t.fogs ?? (t.fog ? [t.fog] : []),
    environment: Array.isArray(env)
      ? { kind: 'gradient', group: 'sky', zenith: env, horizon: env, ground: env }
      : (env ?? null),
    geometry: { hash: '', bytes: bytes.byteLength, meshes: entries, pictures },
  });
  return { document, geometry: bytes, pictures: new Map() };
}

/** Settings for small exact tests: no outlier limits, no roulette in the first bounces, box filter of a pixel. */
export function testRecipe(size: number, samples: number, change: Record<string, unknown> = {}): Recipe {
  const base = {
    size: { width: size, height: size, scale: 100 },
    sampling: {
      cameraMin: samples,
      cameraMax: samples,
      filter: { kind: 'box', widthPx: 1 },
      outlierLimit: { first: null, later: null },
    },
    rayDepth: { all: 64, diffuse: 64, reflection: 64, transmission: 64, rouletteStart: 8 },
  };
  const merge = (a: Record<string, unknown>, b: Record<string, unknown>): Record<string, unknown> => {
    const out = { ...a };
    for (const [k, v] of Object.entries(b)) {
      const plain =
        typeof v === 'object' && v !== null && !Array.isArray(v) && typeof a[k] === 'object' && a[k] !== null;
      out[k] = plain ? merge(a[k] as Record<string, unknown>, v as Record<string, unknown>) : v;
    }
    return out;
  };
  return parseRecipe(merge(base, change));
}

export async function renderTest(
  scene: Scene,
  recipe: Recipe,
  threads = 1,
  study = 0,
): Promise<{ film: Film; layers: FilmLayers }> {
  const pool = new RenderPool(testKernel(), spawnInline, threads);
  await pool.load(scene);
  const { film } = await pool.render(scene, recipe, scene.document.cameras[0], { study });
  pool.close();
  return { film, layers: makeLayers(film) };
}

/**
 * Renders a small scene by `testRecipe` and measures its green: the mean of a layer, and four standard errors of the
 * beauty's from the halves.
 */
export async function measureTest(
  t: TestScene,
  samples: number,
  change: Record<string, unknown> = {},
  { size = 16, layer = 'beauty', study = 0 } = {},
): Promise<{ mean: number; error: number; layers: FilmLayers; film: Film }> {
  const { layers, film } = await renderTest(testScene(t), testRecipe(size, samples, change), 1, study);
  const [a, b] = ['half_a', 'half_b'].map((name) => layers.layers.get(name)!.planes[1]);
  const squares = a.reduce((sum, v, i) => sum + (v - b[i]) ** 2 / 4, 0);
  return { mean: meanOf(layers, layer, 1), error: (4 * Math.sqrt(squares)) / a.length, layers, film };
}

/** Mean of a layer's channel. */
export function meanOf(layers: FilmLayers, name: string, channel = 0): number {
  const plane = layers.layers.get(name)!.planes[channel];
  return plane.reduce((a, b) => a + b, 0) / plane.length;
}

/** A fixed stream of numbers in [0, 1) (mulberry32). */
export function numbers(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A copy cut off, with a piece of it repeated, or with a few bytes changed; the first `spare` bytes stay. */
export function damaged(bytes: Uint8Array, next: () => number, spare = 0): Uint8Array {
  const kind = next();
  const at = () => spare + Math.floor(next() * (bytes.length - spare));
  if (kind < 0.15) return bytes.slice(0, at());
  if (kind < 0.3) {
    const [from, to] = [at(), at()].sort((a, b) => a - b);
    return Uint8Array.from([...bytes.subarray(0, to), ...bytes.subarray(from)]);
  }
  const out = bytes.slice();
  for (let k = 0; k < 1 + next() * 6; k++) out[at()] = Math.floor(next() * 256);
  return out;
}
