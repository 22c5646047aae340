import { toDisplayBytes } from '@/core/image';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { type Scene, type SceneDocument, sceneSchema } from '@/core/scene';
import { RenderPool } from '../pool/pool';
import type { SmallPicture } from '../views/place';
import type { Question } from './question';

const SAMPLES = 24;

function swatchRecipe(size: number): Recipe {
  return parseRecipe({
    size: { width: size, height: size, scale: 100 },
    sampling: { cameraMin: SAMPLES, cameraMax: SAMPLES, filter: { kind: 'box', widthPx: 1 } },
    rayDepth: { all: 8, diffuse: 2, reflection: 3, transmission: 8 },
    film: { groups: false, classes: false, ledger: 'off' },
  });
}

/** A ball of a material on a floor of pale and dark fields, under a window and a dim sky. */
export function swatchScene(document: SceneDocument): SceneDocument {
  const [material] = document.materials;
  return sceneSchema.parse({
    schema: 1,
    name: 'swatch',
    cameras: [{ name: 'front', position: [0, 1.1, 3.2], target: [0, 0.62, 0], focalLengthMm: 62 }],
    materials: [
      material,
      { name: ' pale', base_color: [0.55, 0.55, 0.55], specular_weight: 0 },
      { name: ' dark', base_color: [0.06, 0.06, 0.06], specular_weight: 0 },
    ],
    objects: [
      { name: 'ball', mesh: ' ball', material: material.name, transform: at(0, 0.62, 0) },
      ...[-2, -1, 0, 1].flatMap((x) =>
        [-2, -1, 0, 1].map((z) => ({
          name: `field ${x} ${z}`,
          mesh: ' field',
          material: (x + z) % 2 === 0 ? ' pale' : ' dark',
          transform: at(x + 0.5, 0, z + 0.5),
        })),
      ),
    ],
    lights: [
      {
        kind: 'rectangle',
        name: 'window',
        position: [-2, 2.6, 2],
        facing: [2, -2, -2],
        width: 1.6,
        height: 1.6,
        power: 9,
      },
    ],
    environment: { kind: 'gradient', zenith: [0.5, 0.5, 0.5], horizon: [0.25, 0.25, 0.25], ground: [0.1, 0.1, 0.1] },
    forms: [
      { kind: 'ball', name: ' ball', radius: 0.6, segments: 96 },
      { kind: 'plane', name: ' field', width: 1, depth: 1 },
    ],
    contents: document.contents,
    geometry: document.geometry,
  });
}

const at = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];

/** Material previews by the kernel, on a thread of their own. */
class Swatches {
  private queue: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly pool: RenderPool,
    private readonly sceneOf: (document: SceneDocument) => Promise<Scene>,
  ) {}

  /** Draws the first material of a document; its other contents count for textures alone. */
  draw(document: SceneDocument, size: number): Promise<SmallPicture> {
    const drawn = this.queue.then(async () => {
      const scene = await this.sceneOf(swatchScene(document));
      const [camera] = scene.document.cameras;
      const recipe = swatchRecipe(size);
      if (!this.pool.isLoaded) await this.pool.load(scene, recipe, camera, 1);
      const { film } = await this.pool.render(scene, recipe, camera);
      const [r, g, b] = film.beauty();
      const pixels = new Uint8ClampedArray(size * size * 4);
      toDisplayBytes(r, g, b, size * size, 1, pixels);
      return { width: size, height: size, pixels };
    });
    this.queue = drawn.catch(() => {});
    return drawn;
  }
}

/** A pool of one thread of their own, so that they never disturb the picture. */
let swatches: Swatches | null = null;

/** A small picture of a document's first material; its other contents count for textures alone. */
export const swatch: Question<{ document: SceneDocument; size: number }, SmallPicture> = (desk, { document, size }) => {
  if (!desk.pool) throw new Error('the scene is still being opened');
  if (!swatches) {
    const own = desk.loader.twin();
    swatches = new Swatches(new RenderPool(desk.pool.module, desk.spawn, 1), (d) => own.checked(d));
  }
  return swatches.draw(document, size);
};
