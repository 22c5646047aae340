import {
  type Attribute,
  type ExrStream,
  type FilmFileOptions,
  filmParts,
  lateFilmParts,
  partOf,
  streamExr,
  writeExr,
} from '@/core/exr';
import { type FilmLayers, type FilmSpec, type Layer, layerNames, PlaneShelf } from '@/core/film';
import { cameraAxes, groupColors } from '@/core/kernel';
import type { Variant } from '@/core/outputs';
import { canonicalJson, type Recipe } from '@/core/recipe';
import { type Camera, cameraAt, lightGroups, type Scene } from '@/core/scene';
import { nodeDeflate } from '@/node/zlib';
import type { RenderedFrame } from './rendered-frame';

/** What a written film says of itself beside its pixels. */
export interface FilmNotes {
  recipeHash: string;
  sceneHash: string;
  seed: number;
  noisePercent: number | null;
  seconds: number;
  version: string;
  frame: number;
  framesPerSecond: number;
  /** When it was rendered, as YYYY:MM:DD hh:mm:ss. */
  date: string;
  /** Height of the whole frame over its width. */
  aspect: number;
  /** What the picture differs in from the shot's; null for that. */
  variant?: Variant | null;
  /** What each light group emits, linear Rec.709 of luminance 1. */
  groupColors: Record<string, readonly number[]>;
}

/** A date as OpenEXR's `capDate` has it, in the machine's own time. */
export function captureDate(now: Date): string {
  const two = (n: number) => String(n).padStart(2, '0');
  const day = `${now.getFullYear()}:${two(now.getMonth() + 1)}:${two(now.getDate())}`;
  return `${day} ${two(now.getHours())}:${two(now.getMinutes())}:${two(now.getSeconds())}`;
}

/** What a film was rendered of, and how. */
export interface FilmOrigin {
  scene: Scene;
  sceneHash: string;
  camera: Camera;
  frame: number;
  recipe: Recipe;
  recipeHash: string;
  /** What the picture differs in from the shot's; null for that. */
  variant?: Variant | null;
  noisePercent: number | null;
  traceSeconds: number;
  version: string;
}

/** What a film that was just rendered says of itself. */
export function attributesOf({ scene, camera, frame, recipe, traceSeconds, ...notes }: FilmOrigin) {
  const colors = groupColors(scene);
  return filmAttributes(cameraAt(camera, frame), {
    ...notes,
    frame,
    seconds: traceSeconds,
    seed: recipe.sampling.seed,
    framesPerSecond: scene.document.frames.perSecond,
    date: captureDate(new Date()),
    aspect: recipe.size.height / recipe.size.width,
    groupColors: Object.fromEntries(lightGroups(scene.document).map((g) => [g, colors[g]])),
  });
}

/** Rec.709 primaries and D65 white. */
const CHROMATICITIES = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329];

/** World to camera as OpenEXR writes it: row vectors, row by row. */
function worldToCamera(camera: Camera): number[] {
  const { right, up, back } = cameraAxes(camera);
  const axes = [right, up, back];
  const rows = [0, 1, 2].map((i) => [...axes.map((a) => a[i]), 0]);
  const move = axes.map((a) => -a.reduce((sum, c, i) => sum + c * camera.position[i], 0));
  return [...rows.flat(), ...move, 1];
}

/** World to the frame from −1 to 1, right and up, as OpenEXR writes it: row vectors, row by row. */
function worldToNdc(camera: Camera, aspect: number): number[] {
  const m = worldToCamera(camera);
  const x = (2 * camera.focalLengthMm) / camera.sensorWidthMm;
  const y = x / aspect;
  const near = camera.clipNear || 0.01;
  const shift = [2 * camera.shift[0], (2 * camera.shift[1]) / aspect];
  const p = [x, 0, 0, 0, 0, y, 0, 0, shift[0], shift[1], -1, -1, 0, 0, -2 * near, 0];
  return Array.from({ length: 16 }, (_, i) => {
    const [r, c] = [i >> 2, i & 3];
    return [0, 1, 2, 3].reduce((sum, k) => sum + m[r * 4 + k] * p[k * 4 + c], 0);
  });
}

export function filmAttributes(camera: Camera, notes: FilmNotes): Record<string, Attribute> {
  return {
    chromaticities: { type: 'chromaticities', value: CHROMATICITIES },
    worldToCamera: { type: 'm44f', value: worldToCamera(camera) },
    worldToNDC: { type: 'm44f', value: worldToNdc(camera, notes.aspect) },
    framesPerSecond: { type: 'rational', value: [Math.round(notes.framesPerSecond * 1000), 1000] },
    capDate: { type: 'string', value: notes.date },
    'lantern:frame': { type: 'double', value: notes.frame },
    'lantern:recipe': { type: 'string', value: notes.recipeHash },
    'lantern:scene': { type: 'string', value: notes.sceneHash },
    'lantern:camera': { type: 'string', value: camera.name },
    'lantern:seed': { type: 'double', value: notes.seed },
    'lantern:seconds': { type: 'double', value: notes.seconds },
    'lantern:version': { type: 'string', value: notes.version },
    'lantern:exposure': {
      type: 'double',
      value:
        camera.exposure.ev100 === null
          ? 2 ** camera.exposure.stops
          : 2 ** camera.exposure.stops / (1.2 * 2 ** camera.exposure.ev100),
    },
    ...Object.fromEntries(
      Object.entries(notes.groupColors).map(([group, color]): [string, Attribute] => [
        `lantern:emits.${group}`,
        { type: 'string', value: color.map((c) => c.toFixed(5)).join(' ') },
      ]),
    ),
    ...(notes.variant ? { 'lantern:variant': { type: 'string' as const, value: canonicalJson(notes.variant) } } : {}),
    ...(notes.noisePercent === null ? {} : { 'lantern:noise': { type: 'double' as const, value: notes.noisePercent } }),
  };
}

/** What a film's file says of its pixels: where they lie, and what its masks tell apart. */
export function filmWindows(
  // Films stored before there were masks by material and set say nothing of those.
  spec: Pick<FilmSpec, 'frame' | 'region' | 'coverage'> & Partial<Pick<FilmSpec, 'materials' | 'sets'>>,
): Pick<FilmFileOptions, 'dataWindow' | 'displayWindow' | 'maskNames' | 'members'> {
  const { region, frame, coverage, materials, sets } = spec;
  return {
    dataWindow: {
      xMin: region.x,
      yMin: region.y,
      xMax: region.x + region.width - 1,
      yMax: region.y + region.height - 1,
    },
    displayWindow: { xMin: 0, yMin: 0, xMax: frame.width - 1, yMax: frame.height - 1 },
    maskNames: { coverage, coverage_material: materials?.names ?? [], coverage_set: sets?.names ?? [] },
    members: {
      materials: Object.fromEntries((materials?.of ?? []).map((m, i) => [coverage[i], materials!.names[m]])),
      sets: Object.fromEntries(
        (sets?.names ?? []).map((name, s) => [name, coverage.filter((_, i) => [sets!.of[i]].flat().includes(s))]),
      ),
    },
  };
}

/** Chosen layers of a film as an OpenEXR file. */
export async function writeFilm(
  layers: FilmLayers,
  spec: Parameters<typeof filmWindows>[0],
  attributes: Record<string, Attribute>,
  options: Pick<FilmFileOptions, 'depth' | 'compression' | 'multiPart'> & { layers?: string[] },
): Promise<{ bytes: Uint8Array; partNames: string[] }> {
  const parts = filmParts(layers, {
    ...options,
    ...filmWindows(spec),
    layers: options.layers ?? [...layers.layers.keys()],
    attributes,
  });
  const { bytes } = await writeExr(parts, nodeDeflate);
  return { bytes, partNames: parts.map((p) => p.name) };
}

type KeptLayers = ExrStream & { layers: { name: string; part: number; offset: number; bytes: number }[] };

/** Layers as they are kept: 32-bit floats without compression, part after part, each made when its turn comes. */
export async function streamLayers(
  names: readonly string[],
  make: (name: string) => Layer,
  spec: Parameters<typeof filmWindows>[0],
  attributes: Record<string, Attribute>,
  onPart: () => void = () => {},
): Promise<KeptLayers> {
  const parts = lateFilmParts(names, make, { ...filmWindows(spec), attributes }).map((part) => ({
    ...part,
    planes: () => {
      onPart();
      return part.planes();
    },
  }));
  const stream = await streamExr(parts, nodeDeflate);
  const layers = names.map((name) => {
    const part = parts.findIndex((p) => p.name === partOf(name));
    return { name, part, ...stream.extents[part] };
  });
  return { ...stream, layers };
}

/** A frame whole, as films are kept. */
export async function streamFilm(frame: RenderedFrame, attributes: Record<string, Attribute>): Promise<KeptLayers> {
  // The planes of a part are those of the last one, which has been written: memory that is let go is not free at once.
  const shelf = new PlaneShelf();
  const make = (name: string) => frame.layer(name, shelf.take);
  return streamLayers(layerNames(frame.spec), make, frame.spec, attributes, () => shelf.giveBack());
}
