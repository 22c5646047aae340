import { type FilmLayers, LAYER, makeLayer } from '@/core/film';
import { displayOf, toDisplayBytes } from '@/core/image';
import { BEAUTY_ALONE, parseRecipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import { cameraOf, type Patient } from '../advice/patient';
import type { RenderPool } from '../pool/pool';
import type { Placement } from '../views/place';

/** One frame's picture as the screen shows it. */
export interface KeptFrame {
  width: number;
  height: number;
  place: Placement;
  /** Samples a pixel and pixels together tell which of two pictures of a frame is the better one. */
  samples: number;
  pixels: Uint8ClampedArray<ArrayBuffer>;
}

const MOST_BYTES = 384 * 2 ** 20;
const GATHER_SAMPLES = 4;
/** A gathered frame is sized to be traced in about this time. */
const GATHER_SECONDS = 1;

const worth = (p: Omit<KeptFrame, 'pixels' | 'place'>) => p.samples * p.width * p.height;

/** Pictures of frames as they were last seen, for playing them at the shot's rate. */
export class Reel {
  private readonly frames = new Map<number, KeptFrame>();
  private bytes = 0;
  private of = '';

  constructor(private readonly mostBytes = MOST_BYTES) {}

  /** Says what the pictures are of; those of anything else are forgotten. Returns whether there were any. */
  about(key: string): boolean {
    const other = key !== this.of;
    this.of = key;
    return other && this.clear();
  }

  /** Forgets all pictures; returns whether there were any. */
  clear(): boolean {
    const any = this.frames.size > 0;
    this.frames.clear();
    this.bytes = 0;
    return any;
  }

  /** Whether a picture would be better than the one kept of its frame. */
  wants(frame: number, picture: Omit<KeptFrame, 'pixels' | 'place'>): boolean {
    const known = this.frames.get(frame);
    return !known || worth(picture) > worth(known);
  }

  /** Keeps a frame's picture unless a better one is there; those kept longest give way. Returns whether the list changed. */
  keep(frame: number, picture: KeptFrame): boolean {
    if (!this.wants(frame, picture)) return false;
    const known = this.frames.get(frame);
    if (known) this.bytes -= known.pixels.byteLength;
    this.frames.delete(frame);
    this.frames.set(frame, picture);
    this.bytes += picture.pixels.byteLength;
    let dropped = false;
    for (const [old, p] of this.frames) {
      if (this.bytes <= this.mostBytes || old === frame) break;
      this.frames.delete(old);
      this.bytes -= p.pixels.byteLength;
      dropped = true;
    }
    return !known || dropped;
  }

  kept(): number[] {
    return [...this.frames.keys()].sort((a, b) => a - b);
  }

  /** The kept frame to show `elapsedSeconds` after the start at `first`, going round; null when none is kept. */
  at(elapsedSeconds: number, first: number, last: number, perSecond: number): [number, KeptFrame] | null {
    return frameDue(this.frames, elapsedSeconds, first, last, perSecond);
  }
}

/** What there is of the frame that is due, going round; a frame that is missing holds the one before it. */
function frameDue<T>(
  frames: ReadonlyMap<number, T>,
  elapsedSeconds: number,
  first: number,
  last: number,
  perSecond: number,
): [number, T] | null {
  const due = first + (Math.floor(elapsedSeconds * perSecond) % (last - first + 1));
  for (let back = 0; back <= last - first; back++) {
    const frame = due - back < first ? due - back + (last - first + 1) : due - back;
    const known = frames.get(frame);
    if (known) return [frame, known];
  }
  return null;
}

/** A frame by its light groups, small, so that it can be played in any mix. */
export interface PartedFrame {
  film: FilmLayers;
  place: Placement;
}

const bytesOf = ({ film }: PartedFrame) =>
  [...film.layers.values()].reduce((n, l) => n + l.planes.reduce((m, p) => m + p.byteLength, 0), 0);

/** Frames by their light groups, as they were gathered. */
export class PartReel {
  private readonly frames = new Map<number, PartedFrame>();
  private bytes = 0;

  constructor(private readonly mostBytes = MOST_BYTES) {}

  clear(): void {
    this.frames.clear();
    this.bytes = 0;
  }

  /** Keeps a frame; those kept longest give way. */
  keep(frame: number, parted: PartedFrame): void {
    const known = this.frames.get(frame);
    if (known) this.bytes -= bytesOf(known);
    this.frames.delete(frame);
    this.frames.set(frame, parted);
    this.bytes += bytesOf(parted);
    for (const [old, p] of this.frames) {
      if (this.bytes <= this.mostBytes || old === frame) break;
      this.frames.delete(old);
      this.bytes -= bytesOf(p);
    }
  }

  kept(): number[] {
    return [...this.frames.keys()].sort((a, b) => a - b);
  }

  /** The kept frame to show `elapsedSeconds` after the start at `first`, going round; null when none is kept. */
  at(elapsedSeconds: number, first: number, last: number, perSecond: number): [number, PartedFrame] | null {
    return frameDue(this.frames, elapsedSeconds, first, last, perSecond);
  }
}

/** Renders coarse pictures of frames one after another at the camera's exposure, sized for about a second each. */
export async function gatherFrames(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  frames: readonly number[],
  samplesPerSecond: number,
  take: (frame: number, picture: KeptFrame, parted: PartedFrame | null) => void,
  { signal, onStep }: { signal?: AbortSignal; onStep?: (done: number, of: number) => void } = {},
): Promise<number> {
  const { document, recipe } = patient;
  const camera = cameraOf(patient);
  const scene = await sceneOf(document);
  if (!pool.isLoaded) await pool.load(scene, recipe, camera);
  const area = ((recipe.size.width * recipe.size.height) / 1e4) * recipe.size.scale ** 2;
  const share = Math.min(1, Math.sqrt((samplesPerSecond * GATHER_SECONDS) / (GATHER_SAMPLES * area)));
  const small = parseRecipe({
    ...recipe,
    size: { ...recipe.size, scale: Math.max(1, recipe.size.scale * share) },
    region: null,
    sampling: { ...recipe.sampling, cameraMin: GATHER_SAMPLES, cameraMax: GATHER_SAMPLES, stopNoise: 0 },
    film: { ...recipe.film, ...BEAUTY_ALONE, groups: recipe.film.groups },
  });
  let done = 0;
  for (const frame of frames) {
    onStep?.(done, frames.length);
    const { film, finished } = await pool.render(scene, small, camera, { frame, signal });
    if (signal?.aborted || !finished) break;
    const { width, height } = film.spec.region;
    const [r, g, b] = film.beauty();
    const pixels = new Uint8ClampedArray(width * height * 4);
    toDisplayBytes(r, g, b, width * height, displayOf(camera.exposure, document.look), pixels);
    const place = { width, height, x: 0, y: 0, w: width, h: height };
    const parts = recipe.film.groups ? film.spec.groups.map((g) => makeLayer(film, LAYER.group(g))!) : [];
    const layers = new Map(parts.map((l) => [l.name, l]));
    const parted = parts.length > 0 ? { film: { width, height, layers }, place } : null;
    take(frame, { width, height, place, samples: GATHER_SAMPLES, pixels }, parted);
    done++;
  }
  return done;
}
