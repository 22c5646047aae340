import { z } from 'zod';
import { runFrameSchema } from './run';
import { TRIAL_STATES } from './trial';

/** What the server tells every page, as it happens. Each stays far below the 8,000 bytes of PostgreSQL's NOTIFY. */
export const eventSchema = z.discriminatedUnion('type', [
  /** A trial is in another state, has been edited, removed, or put back. */
  z.object({ type: z.literal('trial'), id: z.string(), shot: z.string(), state: z.enum(TRIAL_STATES) }),
  z.object({
    type: z.literal('progress'),
    id: z.string(),
    shot: z.string(),
    fraction: z.number(),
    leftMs: z.number().nullable(),
    /** Number of the picture so far. */
    preview: z.number(),
  }),
  /** How far the denoising of a trial has come. */
  z.object({
    type: z.literal('denoising'),
    id: z.string(),
    shot: z.string(),
    fraction: z.number(),
    leftMs: z.number().nullable(),
    preview: z.number(),
  }),
  /** A run has been started, changed, or removed, which may change many of its `frames`, or more of its files are in its folder. */
  z.object({ type: z.literal('run'), id: z.string(), shot: z.string(), frames: z.boolean() }),
  /** What has become of a frame of a run. */
  z.object({ type: z.literal('frame'), shot: z.string(), run: z.string(), row: runFrameSchema }),
  /** The draft was saved by a tab. */
  z.object({ type: z.literal('draft'), shot: z.string(), version: z.number(), by: z.string() }),
  /** A shot has another baseline. */
  z.object({ type: z.literal('baseline'), shot: z.string(), trial: z.string().nullable() }),
]);
export type Event = z.infer<typeof eventSchema>;
