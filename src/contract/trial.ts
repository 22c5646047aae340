import { z } from 'zod';
import type { FilmFigures, FilmSpec } from '@/core/film';
import { type Outputs, variantSchema } from '@/core/outputs';
import type { frameOf, Recipe } from '@/core/recipe';
import { efficiency } from '@/core/stats';
import { denoisedLineSchema, noiseSchema } from './denoised';
import { identifier, predictionSchema } from './terms';

/** Which ladder a trial is a step of: the same id for all its steps, and what this one sets, at most two. */
export const ladderStepSchema = z.strictObject({
  id: identifier,
  at: z
    .array(z.strictObject({ label: z.string().max(120), value: z.union([z.number(), z.string().max(80)]) }))
    .min(1)
    .max(2),
});
export type LadderStep = z.infer<typeof ladderStepSchema>;

export const TRIAL_STATES = ['queued', 'rendering', 'storing', 'waiting', 'done', 'stopped', 'failed'] as const;
export type TrialState = (typeof TRIAL_STATES)[number];

/** Seconds a trial spent, by what on. */
const secondsSchema = z.object({
  load: z.number(),
  /** By the clock. */
  trace: z.number(),
  /** Tracing as a machine of speed 1 would have taken: what efficiency is made of; null for a trial that was not timed. */
  calibrated: z.number().nullable(),
  write: z.number(),
});
export type TrialSeconds = z.infer<typeof secondsSchema>;

const frameSchema = z.object({
  width: z.number(),
  height: z.number(),
  region: z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() }),
}) as z.ZodType<ReturnType<typeof frameOf>>;

/** A trial as the logbook lists it. */
export const trialLineSchema = z.object({
  id: identifier,
  shot: identifier,
  /** In its shot’s logbook; 0 for a frame of a run, which is in none. */
  number: z.number().int(),
  /** The run it is a frame of, and in which of its pictures; null for one in the logbook. */
  run: z.object({ id: identifier, number: z.number().int(), picture: z.number().int() }).nullable(),
  /** The scene revision it was rendered of. */
  revision: identifier,
  camera: z.string(),
  /** Frame of the shot; null means its first. */
  frame: z.number().nullable(),
  /** The trial it comes from. */
  parent: identifier.nullable(),
  title: z.string(),
  note: z.string(),
  starred: z.boolean(),
  state: z.enum(TRIAL_STATES),
  fraction: z.number(),
  leftMs: z.number().nullable(),
  /** Whether it was logged at a first start, to have something to show. */
  sample: z.boolean(),
  /** Whether the live picture was let go on beside it, so that its time is not told. */
  untimed: z.boolean(),
  fault: z.string().nullable(),
  seconds: secondsSchema.nullable(),
  noise: noiseSchema.nullable(),
  /** What it was predicted to come to when it was logged. */
  predicted: predictionSchema.nullable(),
  ladder: ladderStepSchema.nullable(),
  /** What its picture differs in from the shot's, and the names of the outputs that leave from it; null for the shot's own. */
  variantFor: z.object({ names: z.array(z.string()), variant: variantSchema }).nullable(),
  /** Start of the hash of its film, which is another one after a stopped trial has gone on; null before there is one. */
  film: z.string().nullable(),
  /** What denoising made of its film; null where it has not been denoised. */
  denoised: denoisedLineSchema.nullable(),
  createdAt: z.string(),
  recipeName: z.string(),
  /** Pixels of its frame and of what of it was rendered. */
  pixels: frameSchema,
});
export type TrialLine = z.infer<typeof trialLineSchema>;

/** A trial whole: its recipe, and what was measured of its film. The film's own figures are told by the core that made them. */
export interface Trial extends TrialLine {
  recipe: Recipe;
  /** The outputs of its picture when it was logged, and the shot's masks; null for trials from before there were any. */
  outputs: Outputs | null;
  figures: FilmFigures | null;
  /** Layers that were delivered of a frame of a run whose film was not kept; null for all else. */
  delivered: string[] | null;
  spec: FilmSpec | null;
}

/** The logbook in pages, newest first: trials with numbers below `before`, and how many there are in all. */
export const logbookPageSchema = z.object({ trials: z.array(trialLineSchema), total: z.number().int() });
export type LogbookPage = z.infer<typeof logbookPageSchema>;
/** Trials in a page of the logbook. */
export const LOGBOOK_PAGE = 250;

const OWNERS = ['object', 'light', 'camera', 'material', 'set', 'rules', 'environment', 'fog', 'look'] as const;

/** What is sent to log a trial. */
export const newTrialSchema = z.strictObject({
  shot: z.string(),
  /** Scene revision; without it the draft's scene, which becomes one. */
  revision: identifier.optional(),
  frame: z.number().int().nullable().default(null),
  camera: z.string(),
  recipe: z.unknown(),
  parent: identifier.nullable().default(null),
  title: z.string().max(120).optional(),
  /** Fields of the scene that are set for this trial alone; the draft stays as it is. */
  fields: z
    .array(
      z.strictObject({
        owner: z.strictObject({ kind: z.enum(OWNERS), name: z.string() }),
        path: z.string(),
        value: z.unknown(),
      }),
    )
    .max(2)
    .default([]),
  ladder: ladderStepSchema.nullable().default(null),
  predicted: predictionSchema.nullable().default(null),
  /** The output whose picture it is of, by its id; null means the shot's own. */
  output: z.string().max(20).nullable().default(null),
  /** Made by the sender: what is sent twice under one key is logged once. */
  key: identifier.nullable().default(null),
});
export type NewTrial = z.infer<typeof newTrialSchema>;

/** What of a trial may be changed. `removed` takes it out of the logbook, or puts it back. */
export const editTrialSchema = z.strictObject({
  title: z.string().trim().min(1).max(120).optional(),
  note: z.string().max(4000).optional(),
  starred: z.boolean().optional(),
  removed: z.boolean().optional(),
});
export type EditTrial = z.infer<typeof editTrialSchema>;

/** Whether its film is there. */
export const finished = (t: Pick<TrialLine, 'state'>) =>
  t.state === 'done' || t.state === 'stopped' || t.state === 'waiting';
export const running = (t: Pick<TrialLine, 'state'>) =>
  t.state === 'queued' || t.state === 'rendering' || t.state === 'storing';
/** Whether it is being timed: nothing else may take the machine's time then. */
export const timed = (t: Pick<TrialLine, 'state' | 'untimed' | 'run'>) =>
  t.run === null && !t.untimed && (t.state === 'rendering' || t.state === 'storing');

type Compared = Pick<TrialLine, 'revision' | 'camera' | 'frame' | 'pixels'>;

/** Whether two trials render the same pixels of the same scene: otherwise neither noise nor time of one says anything of the other. */
export function comparable(a: Compared, b: Compared): boolean {
  const of = ({ revision, camera, frame, pixels: { width, height, region: r } }: Compared) =>
    JSON.stringify([revision, camera, frame, width, height, r.x, r.y, r.width, r.height]);
  return of(a) === of(b);
}

/** Efficiency of a trial as a multiple of the baseline's. Null where either lacks a measurement, or where they do not compare. */
export function relativeEfficiency(t: TrialLine | null, baseline: TrialLine | null): number | null {
  const [own, other] = [t?.seconds?.calibrated, baseline?.seconds?.calibrated];
  if (!t?.noise || !own || !baseline?.noise || !other || !comparable(t, baseline)) return null;
  const base = efficiency(baseline.noise.rms, other);
  return base > 0 ? efficiency(t.noise.rms, own) / base : null;
}
