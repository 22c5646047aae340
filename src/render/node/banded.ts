import {
  type Film,
  type FilmFigures,
  type FilmLayers,
  type FilmSpec,
  joinedFigures,
  LAYER,
  makeLayer,
  makeLayers,
  makeSpec,
  measureFilm,
} from '@/core/film';
import { displayOf } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import type { Camera, Scene } from '@/core/scene';
import { cutIntoBands, joinBands } from '../pool/bands';
import type { Progress, RenderPool } from '../pool/pool';
import { FilmDigest } from './film-digest';

/** A frame as rendered, whatever it was rendered in. Noise shares by source are told of its film alone. */
export interface Rendered extends Omit<FilmFigures, 'shares'> {
  layers: FilmLayers;
  spec: FilmSpec;
  finished: boolean;
  traceMs: number;
  calibratedMs: number;
  /** The same for any number of bands and threads. */
  hash: string;
}

export interface BandOptions {
  signal: AbortSignal;
  frame: number;
  /** How many bands, from the top; one after another they need memory for one at a time. */
  bands: number;
  /** Layers to keep of each; all without it. */
  keep?: string[];
  onProgress?: (progress: Progress) => void;
}

/** Halves of the beauty, from which noise is measured over the joins. */
const HALVES = [LAYER.half('a'), LAYER.half('b')];

function layersOf(film: Film, keep: string[] | undefined): FilmLayers {
  if (!keep) return makeLayers(film);
  const layers: FilmLayers['layers'] = new Map();
  for (const name of new Set([...keep, ...HALVES])) {
    const layer = makeLayer(film, name);
    if (layer) layers.set(name, layer);
  }
  return { width: film.spec.region.width, height: film.spec.region.height, layers };
}

/**
 * Renders a frame band by band. A stop leaves the bands below black. Shares by object and lost light are told of
 * a single band only, since their weights need the whole.
 */
export async function renderBanded(
  pool: RenderPool,
  scene: Scene,
  recipe: Recipe,
  camera: Camera,
  options: BandOptions,
): Promise<Rendered> {
  const { signal, frame, bands, keep, onProgress } = options;
  const exposure = displayOf(camera.exposure, scene.document.look);
  const cut = bands > 1 ? cutIntoBands(recipe, bands) : [recipe];
  const digest = new FilmDigest();
  const parts: FilmLayers[] = [];
  const measured: FilmFigures[] = [];
  const out = { spec: makeSpec(recipe, scene.document), finished: true, traceMs: 0, calibratedMs: 0 };
  for (const [i, part] of cut.entries()) {
    const { film, finished, traceMs, calibratedMs } = await pool.render(scene, part, camera, {
      signal,
      calibrate: true,
      frame,
      onProgress:
        onProgress &&
        ((p) => onProgress({ ...p, fraction: (i + p.fraction) / cut.length, elapsedMs: out.traceMs + p.elapsedMs })),
    });
    out.finished &&= finished;
    out.traceMs += traceMs;
    out.calibratedMs += calibratedMs ?? 0;
    digest.add(film);
    measured.push(measureFilm(film, exposure));
    parts.push(layersOf(film, keep));
  }
  const layers = joinBands(parts);
  const { shares: _, ...figures } =
    cut.length === 1 ? measured[0] : joinedFigures(measured, (name) => layers.layers.get(name)!, layers, exposure);
  if (keep) for (const name of HALVES) if (!keep.includes(name)) layers.layers.delete(name);
  return { ...out, ...figures, layers, hash: digest.hex() };
}
