import { Kernel, prepareScene } from '@/core/kernel';
import { joinGeometry, type Scene, sceneSchema, sphere } from '@/core/scene';

/** Rays a second that count as speed 1. Any fixed number would do; a core of the machine it was chosen on did about as many. */
const REFERENCE_RAYS = 1e7;
const PROBE_MS = 20;
const RAYS = 1024;

/** A finely divided ball: a tree that outgrows the nearest cache, as real scenes' trees do. */
function probeScene(): Scene {
  const { bytes, entries } = joinGeometry({ ball: sphere(1, 128) });
  const document = sceneSchema.parse({
    schema: 1,
    name: 'probe',
    cameras: [{ name: 'cam', position: [0, 0, 5], target: [0, 0, 0] }],
    materials: [{ name: 'plain' }],
    objects: [{ name: 'ball', mesh: 'ball', material: 'plain' }],
    lights: [],
    environment: null,
    geometry: { hash: '', bytes: bytes.byteLength, meshes: entries },
  });
  return { document, geometry: bytes, pictures: new Map() };
}

/**
 * Measures how fast this thread is just now: the same rays on the same ball for about 20 ms. Machines drift by
 * tens of percent with their load; seconds × speed drift far less.
 */
export class SpeedProbe {
  private readonly kernel: Kernel;
  private readonly rays: number;

  constructor(
    module: WebAssembly.Module,
    private readonly now: () => number,
  ) {
    const prepared = prepareScene(module, probeScene(), 64, 1, false);
    this.kernel = new Kernel(module, prepared.memory);
    this.kernel.bindBare(prepared.end);
    this.rays = prepared.end + 16384;
    const rays = new Float32Array(prepared.memory.buffer, this.rays, RAYS * 8);
    // Chords of the ball in all directions: points on a spiral [Vogel 1979], each joined to one far along it.
    const point = (i: number) => {
      const y = 1 - (2 * (i + 0.5)) / RAYS;
      const r = Math.sqrt(1 - y * y);
      const a = i * Math.PI * (3 - Math.sqrt(5));
      return [2 * r * Math.cos(a), 2 * y, 2 * r * Math.sin(a)];
    };
    for (let i = 0; i < RAYS; i++) {
      const from = point(i);
      const to = point((i * 619 + 311) % RAYS);
      const d = to.map((c, k) => c - from[k]);
      const l = Math.hypot(...d) || 1;
      rays.set([...from, ...d.map((c) => c / l), 1e6, 0], i * 8);
    }
    // The engine's first code is slow; it is replaced while this runs.
    for (let i = 0; i < 40; i++) this.trace();
  }

  private trace(): void {
    this.kernel.traceRays(this.rays, RAYS, this.rays + RAYS * 32);
  }

  /** Present speed, 1 = `REFERENCE_RAYS` rays a second. */
  measure(): number {
    const started = this.now();
    let traced = 0;
    let spent = 0;
    while (spent < PROBE_MS) {
      this.trace();
      traced += RAYS;
      spent = this.now() - started;
    }
    return (traced * 1000) / spent / REFERENCE_RAYS;
  }
}
