import { z } from 'zod';
import { identifier } from './terms';

export const MOVIE_CODECS = ['av1', 'vp9'] as const;
/** What of a frame a movie shows: its beauty, or what the shot's stack makes of it. */
export const MOVIE_SHOWS = ['beauty', 'comp'] as const;

/** What is sent to have a movie made of a run's frames that are done. */
export const newMovieSchema = z.strictObject({
  picture: z.number().int().min(0).max(999).default(0),
  shows: z.enum(MOVIE_SHOWS),
  codec: z.enum(MOVIE_CODECS).default('av1'),
  /** Frames a second. */
  rate: z.number().min(1).max(240),
});
export type NewMovie = z.infer<typeof newMovieSchema>;

export const movieSchema = z.object({
  id: identifier,
  run: identifier,
  picture: z.number().int(),
  shows: z.enum(MOVIE_SHOWS),
  codec: z.enum(MOVIE_CODECS),
  rate: z.number(),
  state: z.enum(['waiting', 'making', 'done', 'failed']),
  fraction: z.number(),
  fault: z.string().nullable(),
  /** Its file in the run's folder; null before it is there. */
  name: z.string().nullable(),
  /** What was read back of the file, its frames counted one by one. */
  facts: z
    .object({
      codec: z.string(),
      width: z.number().int(),
      height: z.number().int(),
      frames: z.number().int(),
      rate: z.number(),
      seconds: z.number(),
      bytes: z.number(),
      /** Frames of the range that were not there, in whose place the one before stands. */
      held: z.number().int(),
    })
    .nullable(),
});
export type Movie = z.infer<typeof movieSchema>;
export type MadeMovie = NonNullable<Movie['facts']>;
