import { z } from 'zod';
import { identifier } from './terms';

/** A process that renders, on a machine that several may share. */
export const workerSchema = z.object({
  id: identifier,
  machine: z.string(),
  cores: z.number().int(),
  threads: z.number().int(),
  /** Threads that were set for the machine; null where its workers are as they were started. */
  wantedThreads: z.number().int().nullable(),
  /** Whether the machine is to take no more work. */
  drained: z.boolean(),
  /** Calibrated seconds a second of what it traced last: 1 is a machine of speed 1. */
  speed: z.number().nullable(),
  seenSeconds: z.number(),
  /** Whether it has not been heard of for half a minute. */
  gone: z.boolean(),
  /** Whether it was built from something else than the server, so that it is given nothing. */
  isOther: z.boolean(),
  /** Start of what tells builds apart. */
  mark: z.string(),
  doing: z
    .object({
      shot: z.string(),
      run: z.number().int().nullable(),
      frame: z.number().int().nullable(),
      number: z.number().int().nullable(),
      fraction: z.number(),
    })
    .nullable(),
});
export type Worker = z.infer<typeof workerSchema>;

/** Workers that were heard of lately, and how another machine's joins them. */
export const workersSchema = z.object({ workers: z.array(workerSchema), join: z.array(z.string()) });
export type Workers = z.infer<typeof workersSchema>;

/** What may be set for a machine. */
export const editMachineSchema = z.strictObject({
  machine: z.string().max(200),
  threads: z.number().int().min(1).max(1024).nullable().optional(),
  drained: z.boolean().optional(),
});
export type EditMachine = z.infer<typeof editMachineSchema>;
