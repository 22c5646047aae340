import { cutFor, fileParts, type OpenedFilm, type OpenedMade } from '@/core/cut';
import { type ExrStream, lateFilmParts, type Masking, streamExr } from '@/core/exr';
import { type FilmLayers, type FilmSpec, LAYER, layerNames } from '@/core/film';
import { maskingOf, type Outputs } from '@/core/outputs';
import type { RunFile } from '@/core/runs';
import { pickableOf, pickedBy } from '@/core/scene';
import { nodeDeflate } from '@/node/zlib';
import { attributesOf, type FilmOrigin, filmWindows } from './film-exr';
import type { RenderedFrame } from './rendered-frame';

/** Of what a film says of itself, what depends on when and how fast it was rendered. */
const OF_THE_MOMENT = ['capDate', 'lantern:seconds'];

const lasting = <T>(attributes: Record<string, T>): Record<string, T> =>
  Object.fromEntries(Object.entries(attributes).filter(([name]) => !OF_THE_MOMENT.includes(name)));

/** A film that was kept, without what depends on the moment. */
export const openedKept = ({ parts, read }: OpenedFilm): OpenedFilm => ({
  parts: parts.map((part) => ({ ...part, attributes: lasting(part.attributes) })),
  read,
});

/** A frame that was rendered, opened as a film that is kept. What depends on the moment is not told, so that equal pictures are equal bytes. */
export function openedFrame(frame: RenderedFrame, origin: FilmOrigin): OpenedFilm {
  const attributes = lasting(attributesOf(origin));
  const { spec } = frame;
  const parts = lateFilmParts(layerNames(spec), (name) => frame.layer(name), { ...filmWindows(spec), attributes });
  return { parts, read: async (part) => parts[part].planes() };
}

/** What denoising made of a film, in memory, opened as one that is kept. */
export function openedLayers(film: FilmLayers, names: readonly string[], spec: FilmSpec): OpenedFilm {
  const parts = lateFilmParts(names, (name) => film.layers.get(name)!, { ...filmWindows(spec), attributes: {} });
  return { parts, read: async (part) => parts[part].planes() };
}

/** What layers of masks are made of, by what they pick of the scene. */
function maskings({ masks }: Outputs, origin: FilmOrigin): Record<string, Masking> {
  const from = pickableOf(origin.scene.document);
  return Object.fromEntries(masks.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))]));
}

/** The files of a frame that was rendered, one after another, each made when its turn comes; denoised where something was made of it. */
export async function* frameFiles(
  film: OpenedFilm,
  origin: FilmOrigin,
  outputs: Outputs,
  files: readonly RunFile[],
  made: OpenedMade | null = null,
): AsyncGenerator<{ file: RunFile; stream: ExrStream }> {
  const masks = maskings(outputs, origin);
  for (const file of files) {
    const output = outputs.list.find((o) => o.name === file.output)!;
    const cut = { ...cutFor(output, file.layers, masks), denoised: made ? ('instead' as const) : ('no' as const) };
    const parts = await fileParts(film, cut, made);
    yield { file, stream: await streamExr(parts, nodeDeflate) };
  }
}
