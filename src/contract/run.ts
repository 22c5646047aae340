import { z } from 'zod';
import type { Outputs, Variant } from '@/core/outputs';
import type { Recipe } from '@/core/recipe';
import { COMP_KINDS, type CompKind, ORDERS } from '@/core/runs';
import { identifier } from './terms';
import { TRIAL_STATES } from './trial';

export const RUN_STATES = ['on', 'paused', 'stopped'] as const;
export type RunState = (typeof RUN_STATES)[number];

/** Frames of a run by what has become of them; a frame in several pictures counts once for each. */
const countsSchema = z.object({
  all: z.number().int(),
  done: z.number().int(),
  failed: z.number().int(),
  /** Not made, since the run was ended. */
  left: z.number().int(),
  /** Being rendered or packed. */
  busy: z.number().int(),
});

/** A run as the list of runs tells it. */
export const runLineSchema = z.object({
  id: identifier,
  shot: identifier,
  number: z.number().int(),
  title: z.string(),
  camera: z.string(),
  frames: z.string(),
  folder: z.string(),
  keepsFilms: z.boolean(),
  priority: z.number().int(),
  state: z.enum(RUN_STATES),
  createdAt: z.string(),
  /** When it is wanted; null where nobody said. */
  wantedAt: z.string().nullable(),
  /** When its last frame was finished; null while one is not. */
  endedAt: z.string().nullable(),
  pictures: z.number().int(),
  counts: countsSchema,
  /** Files packed, put into the folder, and their bytes. */
  files: z.object({ packed: z.number().int(), placed: z.number().int(), bytes: z.number() }),
  /** Why a file could not be put into the folder; null when none waits for that. */
  fault: z.string().nullable(),
  /** Seconds that a frame took beside tracing, a million pixels: loading what moved, packing; null before the first. */
  besideTracing: z.number().nullable(),
});
export type RunLine = z.infer<typeof runLineSchema>;

/** A frame of a run in one of its pictures. */
export const runFrameSchema = z.object({
  id: identifier,
  frame: z.number().int(),
  picture: z.number().int(),
  state: z.enum(TRIAL_STATES),
  fraction: z.number(),
  /** Noise in percent of display white. */
  noise: z.number().nullable(),
  /** From taking it up to its files being packed, by the clock. */
  seconds: z.number().nullable(),
  machine: z.string().nullable(),
  fault: z.string().nullable(),
  /** How far it stands out from what the frames beside it lead to expect, in percent of display white; null until both are there. */
  step: z.number().nullable(),
});
export type RunFrame = z.infer<typeof runFrameSchema>;

/** The same as a row of values, for runs of thousands: keys said once are read once. */
const FRAME_KEYS = Object.keys(runFrameSchema.shape) as (keyof RunFrame)[];
export const framesFrom = (rows: readonly (readonly unknown[])[]): RunFrame[] =>
  rows.map((r) => Object.fromEntries(FRAME_KEYS.map((key, i) => [key, r[i]])) as RunFrame);

/** A run whole: what it was started from, and its frames by frame and picture. */
export interface Run extends RunLine {
  revision: string;
  recipe: Recipe;
  outputs: Outputs;
  comp: CompKind | null;
  variants: (Variant | null)[];
  rows: RunFrame[];
}

/** A time with its date, as 2031-02-03T08:00:00Z. */
const moment = z.iso.datetime({ offset: true });

/** What is sent to start a run; its scene, recipe and outputs are those of the draft. */
export const newRunSchema = z.strictObject({
  frames: z.string().trim().min(1).max(2000),
  camera: z.string(),
  title: z.string().trim().max(120).default(''),
  /** Where its files go on the server's machine; the folder for deliveries without it. */
  folder: z
    .string()
    .trim()
    .max(1000)
    .refine((f) => f === '' || f.startsWith('/'), 'a folder of the server machine from its root on, as /work/films')
    .default(''),
  overwrites: z.boolean().default(false),
  keepsFilms: z.boolean().default(false),
  priority: z.number().int().min(-3).max(3).default(0),
  order: z.enum(ORDERS).default('ends'),
  /** Whether it is small and quick, keeps its films and comes first: to look at every layer of every file before a run. */
  proof: z.boolean().default(false),
  /** As which kind of file what the shot's stack makes is delivered too; null for not. */
  comp: z.enum(COMP_KINDS).nullable().default(null),
  wantedAt: moment.nullable().default(null),
  key: identifier.nullable().default(null),
});
export type NewRun = z.infer<typeof newRunSchema>;

/** What of a run may be changed while it goes on. */
export const editRunSchema = z.strictObject({
  state: z.enum(RUN_STATES).optional(),
  priority: z.number().int().min(-3).max(3).optional(),
  title: z.string().trim().min(1).max(120).optional(),
  removed: z.boolean().optional(),
  wantedAt: moment.nullable().optional(),
});
export type EditRun = z.infer<typeof editRunSchema>;

/** Frames that are to be rendered again: named, those that failed, or those whose files are not in the folder as they were put there. */
export const againSchema = z.strictObject({
  which: z.union([z.enum(['failed', 'missing']), z.array(identifier).min(1).max(20000)]),
  /** Whether they come before all else. */
  urgent: z.boolean().default(false),
});
export type Again = z.infer<typeof againSchema>;

/** What the server's machine has to say of a run before it starts. */
export const roomSchema = z.object({
  folder: z.string(),
  /** Files that are there under names that the run would write. */
  taken: z.array(z.string()),
  freeBytes: z.number().nullable(),
  /** Bytes that are left for films, which runs and trials share. */
  storeBytes: z.number(),
  /** Content of the scene that is not there. */
  missing: z.array(z.string()),
  /** Why the folder cannot be used; null where it can. */
  fault: z.string().nullable(),
  next: z.number().int(),
});
export type Room = z.infer<typeof roomSchema>;

/** Whether all frames of a run have come to an end. */
export const isOver = ({ counts }: Pick<RunLine, 'counts'>) => counts.done + counts.failed + counts.left === counts.all;
