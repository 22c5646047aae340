import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir, totalmem } from 'node:os';
import { join } from 'node:path';
import {
  Film,
  type FilmFigures,
  type FilmSpec,
  filmBytes,
  joinedFigures,
  type Layer,
  layerNames,
  makeLayer,
  makeSpec,
  measureFilm,
  PlaneShelf,
} from '@/core/film';
import type { Display } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import { bandsFor, MOST_FILM_BYTES } from '@/core/runs';
import type { SceneDocument } from '@/core/scene';
import { cutIntoBands } from '../pool/bands';

type TakePlane = PlaneShelf['take'];

/** A frame that was rendered, in one film or in bands. */
export interface RenderedFrame {
  /** Of the whole frame, or of the region that was asked for. */
  spec: FilmSpec;
  /** One of the layers that films of this spec have. */
  layer(name: string, take?: TakePlane): Layer;
}

/** A film in memory as the frame that it is. */
export const frameOfFilm = (film: Film): RenderedFrame => ({
  spec: film.spec,
  layer: (name, take) => makeLayer(film, name, take)!,
});

/** Where a machine keeps bands: on a disk, where the folder for what is temporary may lie in the memory that is too small. */
export const BANDS = join(existsSync('/var/tmp') ? '/var/tmp' : tmpdir(), 'lantern-bands');

/** Part of the machine's memory that a film may take. */
const MOST_OF_MEMORY = 0.4;

/** Bytes that films may have on this machine before they are rendered in bands; `LANTERN_FILM_BYTES` sets it. */
export function roomForFilms(): number {
  return Number(process.env.LANTERN_FILM_BYTES) || Math.min(MOST_FILM_BYTES, totalmem() * MOST_OF_MEMORY);
}

/** In how many bands a recipe is rendered on this machine, of whose memory so many films take a part each. */
const bandsHere = (recipe: Recipe, document: SceneDocument, films: number): number =>
  bandsFor(recipe, filmBytes(makeSpec(recipe, document)), roomForFilms() / films);

/** What tracing took: milliseconds by the clock, and calibrated. */
export interface Spent {
  traceMs: number;
  calibratedMs: number;
}

/** What is told of a band that is done. */
interface BandNote {
  figures: FilmFigures;
  spent: Spent;
  layers: Omit<Layer, 'planes'>[];
}

const bytesOf = (plane: Float32Array) => new Uint8Array(plane.buffer, plane.byteOffset, plane.byteLength);

/**
 * Bands of a frame, kept in a folder layer by layer, since all of them together do not fit into memory. A band whose note lies there is
 * done, whoever rendered it: a process that begins again goes on behind it.
 */
class BandFolder implements RenderedFrame {
  private readonly notes: (BandNote | null)[];
  private readonly names: string[];

  /** `specs` are those of the bands, from the top, and `spec` that of all together. */
  constructor(
    private readonly dir: string,
    readonly spec: FilmSpec,
    private readonly specs: readonly FilmSpec[],
  ) {
    mkdirSync(dir, { recursive: true });
    this.names = layerNames(spec);
    this.notes = specs.map((_, i) => {
      try {
        return JSON.parse(readFileSync(this.path(i, 'json'), 'utf8'));
      } catch {
        return null;
      }
    });
  }

  private path(band: number, kind: string): string {
    return join(this.dir, `${band}.${kind}`);
  }

  isDone(band: number): boolean {
    return this.notes[band] !== null;
  }

  /** Milliseconds that the bands so far took. */
  get spent(): Spent {
    const sum = (of: (s: Spent) => number) => this.notes.reduce((s, n) => s + (n ? of(n.spent) : 0), 0);
    return { traceMs: sum((s) => s.traceMs), calibratedMs: sum((s) => s.calibratedMs) };
  }

  /** Keeps a band that was rendered; of one that was stopped it is not noted that it is done. */
  add(band: number, film: Film, exposure: Display, spent: Spent, isDone: boolean): void {
    const shelf = new PlaneShelf();
    const file = openSync(this.path(band, 'planes'), 'w');
    const layers: BandNote['layers'] = [];
    try {
      for (const name of this.names) {
        const { planes, ...layer } = makeLayer(film, name, shelf.take)!;
        for (const plane of planes) writeWhole(file, bytesOf(plane as Float32Array));
        layers.push(layer);
        shelf.giveBack();
      }
    } finally {
      closeSync(file);
    }
    const note: BandNote = { figures: measureFilm(film, exposure), spent, layers };
    this.notes[band] = note;
    if (!isDone) return;
    writeFileSync(this.path(band, 'part'), JSON.stringify(note));
    renameSync(this.path(band, 'part'), this.path(band, 'json'));
  }

  layer(name: string, take: TakePlane = (size: number) => new Float32Array(size)): Layer {
    const notes = this.notes as BandNote[];
    const at = this.names.indexOf(name);
    const layer = notes[0].layers[at];
    const before = notes[0].layers.slice(0, at).reduce((n, l) => n + l.channels.length, 0);
    const { width, height } = this.spec.region;
    const planes = layer.channels.map(() => take(width * height));
    let row = 0;
    this.specs.forEach(({ region }, band) => {
      const file = openSync(this.path(band, 'planes'), 'r');
      const size = width * region.height;
      try {
        planes.forEach((plane, p) => {
          readWhole(file, bytesOf(plane.subarray(row * width, row * width + size)), (before + p) * size * 4);
        });
      } finally {
        closeSync(file);
      }
      row += region.height;
    });
    return { ...layer, planes };
  }

  /** Figures of the frame; shares of its noise are told of films in one piece alone. */
  figures(exposure: Display): FilmFigures {
    const all = (this.notes as BandNote[]).map((n) => n.figures);
    return joinedFigures(all, (name) => this.layer(name), this.spec.region, exposure);
  }
}

/** Which part of a frame is traced: band `band` of `bands`. */
export interface FramePart {
  band: number;
  bands: number;
}
export const WHOLE: FramePart = { band: 0, bands: 1 };

/** A frame as it came out of the threads. */
export interface TracedFrame {
  frame: RenderedFrame;
  /** Its film where that is in one piece. */
  film: Film | null;
  /** Measures it. */
  figures: () => FilmFigures;
  /** False when it was stopped. */
  finished: boolean;
  spent: Spent;
  /** Lets go of what was kept of it on the way, unless it was stopped: it can go on. */
  end: () => void;
}

/**
 * Has a frame traced, in one piece or in as many bands as this machine's memory wants, to the same bits: `tracing` renders the recipe of
 * a part. Bands that are done stay in `folder` until the end, so that whoever takes the frame up again goes on behind them. `films`: how many such
 * frames are held at once.
 */
export async function traceFrame(
  {
    recipe,
    document,
    display,
    folder,
    films = 1,
  }: { recipe: Recipe; document: SceneDocument; display: Display; folder: string; films?: number },
  tracing: (recipe: Recipe, part: FramePart) => Promise<{ film: Film; finished: boolean; spent: Spent }>,
): Promise<TracedFrame> {
  const bands = bandsHere(recipe, document, films);
  if (bands === 1) {
    const { film, ...told } = await tracing(recipe, WHOLE);
    return { ...told, frame: frameOfFilm(film), film, figures: () => measureFilm(film, display), end: () => {} };
  }
  const recipes = cutIntoBands(recipe, bands);
  const specs = recipes.map((r) => makeSpec(r, document));
  const kept = new BandFolder(join(folder, String(recipes.length)), makeSpec(recipe, document), specs);
  let finished = true;
  for (const [band, own] of recipes.entries()) {
    if (kept.isDone(band)) continue;
    // Below a band that was stopped there is nothing.
    const done: Awaited<ReturnType<typeof tracing>> = finished
      ? await tracing(own, { band, bands: recipes.length })
      : { film: new Film(specs[band]), finished, spent: { traceMs: 0, calibratedMs: 0 } };
    finished &&= done.finished;
    kept.add(band, done.film, display, done.spent, finished);
  }
  const end = () => {
    if (finished) rmSync(folder, { recursive: true, force: true });
  };
  return { frame: kept, film: null, figures: () => kept.figures(display), finished, spent: kept.spent, end };
}

/** Bands that nobody has gone on with for so long are given up. */
const LONGEST_MS = 7 * 24 * 3600 * 1000;

/** Lets go of bands in a folder that were given up. */
export function sweepBands(folder = BANDS, now = Date.now()): void {
  if (!existsSync(folder)) return;
  for (const name of readdirSync(folder)) {
    const path = join(folder, name);
    if (now - statSync(path).mtimeMs > LONGEST_MS) rmSync(path, { recursive: true, force: true });
  }
}

/** A call writes or reads 2 GB at most, and may do less than it was asked to. */
const MOST_AT_ONCE = 2 ** 30;

function writeWhole(file: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length; )
    at += writeSync(file, bytes, at, Math.min(MOST_AT_ONCE, bytes.length - at), null);
}

function readWhole(file: number, bytes: Uint8Array, from: number): void {
  for (let at = 0; at < bytes.length; ) {
    const n = readSync(file, bytes, at, Math.min(MOST_AT_ONCE, bytes.length - at), from + at);
    if (n === 0) throw new Error('a band of the frame is shorter than it was written');
    at += n;
  }
}
