import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import {
  ALL_GROUPS,
  type Entry,
  evaluateInTurn,
  filmInFrame,
  halfOf,
  type LookTable,
  layersOf,
  type MoodFactors,
  needsOf,
  type Picture,
  placed,
  plateOf,
  readCube,
  type Sources,
  type Stack,
  StackError,
  sourcesOf,
  TableError,
} from '@/core/comp';
import { layeredIn, type PartHeader, readLayered } from '@/core/exr';
import { type FilmLayers, type Half, isData, type Layer, layerInfo, OPENNESS } from '@/core/film';
import type { Chromaticities, Space } from '@/core/image';
import { nodeInflate } from '@/node/zlib';
import { readPicture } from '@/render/import/read-picture';
import { UsageError } from './args';
import { withExr } from './exr-files';
import { factorsIn, moodOf } from './moods';

/** A path at a frame: a run of # stands for its digits. */
export const atFrame = (path: string, frame: number): string =>
  path.replace(/#+/, (signs) => String(frame).padStart(signs.length, '0'));

export async function bytesOf(path: string): Promise<Buffer> {
  return readFile(path).catch((error: NodeJS.ErrnoException) => {
    throw new UsageError(`${path}: ${error.code === 'ENOENT' ? 'no such file' : error.message}`);
  });
}

/** Bytes of layers that are kept for when they are wanted once more. */
const MOST_KEPT = 2 ** 30;

/** A film of a stack as its file tells of it, without its pixels. */
interface FilmFile {
  path: string;
  header: PartHeader;
  /** Names of its layers, and whether all of them lie in one part, which is read as a whole. */
  layers: string[];
  isOnePart: boolean;
  width: number;
  height: number;
  /** Brings its light to display white. */
  scale: number;
}

async function filmFile(path: string): Promise<FilmFile> {
  return withExr(path, async (_source, file) => {
    const { width, height, layers } = layeredIn(file);
    const [first] = file.parts;
    const exposure = first.attributes['lantern:exposure'];
    return {
      path,
      header: { ...first, dataWindow: first.displayWindow },
      layers: layers.map((l) => l.name),
      isOnePart: file.parts.length === 1,
      width,
      height,
      scale: exposure?.type === 'double' ? exposure.value : 1,
    };
  });
}

/** The light group that a layer is; none for any other. */
function ofGroup(layer: string): string[] {
  const { family, group } = layerInfo(layer);
  return family === 'group' && group !== null ? [group] : [];
}

/** All that a stack names at a frame, in files whose paths are relative to the stack's; read as its entries want it. */
export class StackFiles {
  /** Header of the first film; null without any. */
  readonly header: PartHeader | null;
  private readonly kept = new Map<string, Layer>();
  private keptBytes = 0;
  private readonly pictures = new Map<string, Picture>();
  private size: { width: number; height: number } | null;

  private constructor(
    readonly stack: Stack,
    private readonly at: (path: string) => string,
    private readonly films: ReadonlyMap<string, FilmFile>,
    readonly tables: ReadonlyMap<string, LookTable>,
    private readonly moods: ReadonlyMap<string, MoodFactors>,
  ) {
    const [first] = films.values();
    this.header = first?.header ?? null;
    this.size = first ? { width: first.width, height: first.height } : null;
  }

  static async open(stack: Stack, base: string, frame: number): Promise<StackFiles> {
    const at = (path: string) => resolve(base, atFrame(path, frame));
    const films = new Map<string, FilmFile>();
    for (const [name, path] of Object.entries(stack.films)) films.set(name, await filmFile(at(path)));
    const tables = new Map<string, LookTable>();
    for (const [name, path] of Object.entries(stack.tables)) tables.set(name, await tableAt(at(path)));
    const moods = new Map<string, MoodFactors>();
    const [film] = films.values();
    for (const [name, path] of Object.entries(stack.moods)) {
      const groups = film ? film.layers.flatMap(ofGroup) : [];
      const { factors } = factorsIn(await moodOf(at(path)), groups, [{ attributes: film?.header.attributes ?? {} }]);
      moods.set(name, { groups, factors });
    }
    return new StackFiles(stack, at, films, tables, moods);
  }

  /** Names of layers that stand for one: every light group, openness by its reaches, the half that is wanted. */
  private named(film: FilmFile, layer: string, half: Half | null): string[] {
    if (layer === ALL_GROUPS)
      return film.layers.filter((n) => ofGroup(n).length > 0).flatMap((n) => this.named(film, n, half));
    if (layer === OPENNESS.layer) return [layer, OPENNESS.bands];
    const own = half === null || isData(layer) ? null : halfOf(layer, half);
    return own === null ? [layer] : [layer, own];
  }

  private async film(name: string, layers: readonly string[], half: Half | null): Promise<FilmLayers> {
    const film = this.films.get(name);
    if (!film) throw new StackError('films', `there is no film ${name}`);
    const there = (of: readonly string[]) =>
      [...new Set(of.flatMap((l) => this.named(film, l, half)))].filter((n) => film.layers.includes(n));
    const wanted = there(layers);
    const key = (layer: string) => `${name} ${layer}`;
    const missing = wanted.filter((n) => !this.kept.has(key(n)));
    const made = new Map(wanted.flatMap((n) => (this.kept.has(key(n)) ? [[n, this.kept.get(key(n))!] as const] : [])));
    if (missing.length > 0) {
      const all = film.isOnePart ? there(layersOf(this.stack, name)) : missing;
      const read = await withExr(film.path, (source, file) => readLayered(source, file, all, nodeInflate));
      for (const [layer, own] of read.layers) {
        if (!isData(layer)) for (const p of own.planes) for (let i = 0; i < p.length; i++) p[i] *= film.scale;
        if (wanted.includes(layer)) made.set(layer, own);
        // Light is wanted once; data for each half of it too, and a part with all of it is not read for each layer anew.
        if (film.isOnePart || isData(layer)) this.keep(key(layer), own);
      }
    }
    const { width, height } = film;
    const frame = this.size!;
    return filmInFrame({ width, height, layers: made }, name, frame, { x: 0, y: 0, w: frame.width, h: frame.height });
  }

  private keep(key: string, layer: Layer): void {
    const bytes = layer.planes.reduce((n, p) => n + p.byteLength, 0);
    if (this.keptBytes + bytes > MOST_KEPT || this.kept.has(key)) return;
    this.kept.set(key, layer);
    this.keptBytes += bytes;
  }

  private async placedPicture(name: string): Promise<Picture> {
    const known = this.pictures.get(name);
    if (known) return known;
    const plate = this.stack.pictures[name];
    const path = this.at(plate.file);
    const read = await readPicture(path, await bytesOf(path), nodeInflate).catch((error: Error) => {
      throw new UsageError(error.message);
    });
    const picture = plateOf(read, plate, this.stack.space);
    // Without a film the first picture says how large the frame is.
    const frame = this.size ?? picture;
    this.size = { width: frame.width, height: frame.height };
    const made = placed(picture, plate.place, this.size);
    this.pictures.set(name, made);
    return made;
  }

  private async sourcesFor(entry: Entry, half: Half | null): Promise<Sources> {
    const { stack } = this;
    const needs = needsOf(stack, entry);
    const films = new Map<string, FilmLayers>();
    for (const name of new Set(needs.map((n) => n.film))) {
      const own = needs.filter((n) => n.film === name).map((n) => n.layer);
      films.set(name, await this.film(name, [...own, 'alpha'], half));
    }
    const isOfPicture = entry.kind === 'layer' && entry.source.from === 'picture';
    const pictures = new Map<string, Picture>();
    if (isOfPicture) {
      const name = (entry.source as { picture: string }).picture;
      if (!Object.hasOwn(stack.pictures, name)) throw new StackError('pictures', `there is no picture ${name}`);
      pictures.set(name, await this.placedPicture(name));
    }
    const primaries = new Map<string, Space | Chromaticities>();
    for (const [name, { header }] of this.films) {
      const told = header.attributes.chromaticities;
      const space = stack.spaces[name] ?? (told?.type === 'chromaticities' ? told.value : null);
      if (space) primaries.set(name, space);
    }
    const { tables, moods } = this;
    return sourcesOf({ films, pictures, tables, moods, size: this.size!, space: stack.space, primaries }, half);
  }

  /** What the stack makes; `half`: of every other sample. Throws `StackError`. */
  async picture(half: Half | null): Promise<Picture> {
    const [first] = Object.keys(this.stack.pictures);
    if (!this.size && first !== undefined) await this.placedPicture(first);
    if (!this.size)
      throw new StackError('entries', 'the stack names neither a film nor a picture, so that it has no size');
    return evaluateInTurn(this.stack, this.size, (entry) => this.sourcesFor(entry, half));
  }
}

async function tableAt(path: string): Promise<LookTable> {
  const text = (await bytesOf(path)).toString('utf8');
  try {
    return readCube(text);
  } catch (error) {
    throw error instanceof TableError ? new UsageError(`${path}: ${error.message}`) : error;
  }
}
