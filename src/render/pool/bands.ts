import type { FilmLayers, Layer } from '@/core/film';
import { TILE_SIZE } from '@/core/kernel';
import { frameOf, parseRecipe, type Recipe } from '@/core/recipe';

/**
 * The recipe cut into `count` bands of whole rows of cells, from the top. Rendered one after another they give the
 * bits of the whole, since a pixel's samples depend on its place in the frame alone.
 */
export function cutIntoBands(recipe: Recipe, count: number): Recipe[] {
  const { width, height, region } = frameOf(recipe);
  const rows = Math.ceil(region.height / TILE_SIZE);
  const bands = Math.min(count, rows);
  return Array.from({ length: bands }, (_, i) => {
    const from = Math.floor((rows * i) / bands) * TILE_SIZE;
    const to = Math.min(region.height, Math.floor((rows * (i + 1)) / bands) * TILE_SIZE);
    return parseRecipe({
      ...recipe,
      region: { x: region.x / width, y: (region.y + from) / height, w: region.width / width, h: (to - from) / height },
    });
  });
}

/** Layers of bands, one below the other, as those of the whole. */
export function joinBands(bands: FilmLayers[]): FilmLayers {
  if (bands.length === 1) return bands[0];
  const { width } = bands[0];
  const height = bands.reduce((n, b) => n + b.height, 0);
  const layers = new Map<string, Layer>();
  for (const [name, first] of bands[0].layers) {
    const planes = first.planes.map((_, p) => {
      const out = new Float32Array(width * height);
      let at = 0;
      for (const b of bands) {
        const plane = b.layers.get(name)!.planes[p];
        out.set(plane, at);
        at += plane.length;
      }
      return out;
    });
    layers.set(name, { ...first, planes });
  }
  return { width, height, layers };
}
