import {
  changedNames,
  denoisedLayers,
  flicker,
  type HotLight,
  type JoinedFigures,
  joinNeighbours,
  movedTo,
  type Prepared,
} from '@/core/denoise';
import type { FilmLayers } from '@/core/film';
import type { Display } from '@/core/image';
import { type DenoiseOptions, denoiseFilm } from './denoiser';

/** A frame before or after the one that is denoised. */
export interface Neighbour {
  film: FilmLayers;
  isAfter: boolean;
}

/** A frame denoised at full strength. */
export interface DenoisedFrame {
  film: FilmLayers;
  /** Layers that are not as they were. */
  names: string[];
  /** Parts that were filtered. */
  parts: number;
  /** Hot pixels of each lead, by its layer's name. */
  hot: Record<string, HotLight>;
  joined: JoinedFigures | null;
  seconds: number;
}

export interface FrameOptions extends Omit<DenoiseOptions, 'scale' | 'onSquare'> {
  display: Display;
  /** What brings the films' light to units of display white. */
  scale: number;
  onProgress?(fraction: number): void;
  /** Told after each square of the frame itself. */
  onSquare?(square: { x: number; y: number }, prepared: Prepared, done: number): void;
}

/**
 * Denoises a frame, and joins it with neighbours of the same size, which are denoised for that. Stopping throws the signal's
 * reason. Throws `DenoiseError` where a film has no halves, `NeighbourError` where one has no motion.
 */
export async function denoiseFrame(
  film: FilmLayers,
  neighbours: readonly Neighbour[],
  { display, onProgress, onSquare, ...how }: FrameOptions,
): Promise<DenoisedFrame> {
  const started = performance.now();
  const films = [film, ...neighbours.map((n) => n.film)];
  const done = [];
  for (const [k, one] of films.entries()) {
    done.push(
      await denoiseFilm(one, {
        ...how,
        first: k === 0 ? how.first : undefined,
        onSquare: (n, of, square, prepared) => {
          if (k === 0) onSquare?.(square, prepared, n);
          onProgress?.((k + n / of) / films.length);
        },
      }),
    );
    how.signal?.throwIfAborted();
  }
  const { prepared, hot } = done[0];
  const alone = done.map((d, k) => denoisedLayers(films[k], d.prepared));
  const joined = neighbours.length > 0 ? join(films, alone, neighbours, display) : null;
  return {
    film: joined?.film ?? alone[0],
    names: changedNames(film, prepared),
    parts: prepared.leads.length + prepared.followers.length,
    hot,
    joined: joined?.figures ?? null,
    seconds: (performance.now() - started) / 1000,
  };
}

/** The first film joined with the others, and its flicker against the first of them. */
function join(films: FilmLayers[], alone: FilmLayers[], neighbours: readonly Neighbour[], display: Display) {
  const about = neighbours.map((n, k) => ({ frame: alone[k + 1], isAfter: n.isAfter }));
  const { film, share } = joinNeighbours(alone[0], about);
  const moved = movedTo(films[0], films[1], about[0].isAfter);
  const of = (own: FilmLayers, other: FilmLayers) => flicker(own, other, moved, display);
  // Its neighbour has this frame and no other to be joined with.
  const back = joinNeighbours(alone[1], [{ frame: alone[0], isAfter: !about[0].isAfter }]).film;
  const figures: JoinedFigures = {
    share,
    flicker: { rendered: of(films[0], films[1]), alone: of(alone[0], alone[1]), joined: of(film, back) },
  };
  return { film, figures };
}
