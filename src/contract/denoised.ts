import { z } from 'zod';
import type { HotLight, JoinedFigures, Patches } from '@/core/denoise';
import type { Noise } from '@/core/stats';

export const DENOISED_STATES = ['queued', 'filtering', 'storing', 'judging', 'done', 'stopped', 'failed'] as const;
export type DenoisedState = (typeof DENOISED_STATES)[number];

export const noiseSchema = z.object({ rms: z.number(), p95: z.number(), worstCell: z.number() }) as z.ZodType<Noise>;

const share = z.number().min(0).max(1);
/** How much of what denoising made is taken, 0 to 1: of everything, and of light groups with a strength of their own. */
export const strengthsSchema = z.strictObject({
  all: share,
  groups: z.record(z.string().regex(/^[a-z0-9_]{1,40}(\.[a-z0-9_]{1,40}){0,2}$/), share).default({}),
});

/** What the logbook tells of a trial's denoised film. */
export const denoisedLineSchema = z.object({
  state: z.enum(DENOISED_STATES),
  fraction: z.number(),
  leftMs: z.number().nullable(),
  fault: z.string().nullable(),
  strengths: strengthsSchema,
  /** Noise that is left at these strengths, told by the denoised halves, null before it is there. */
  residual: noiseSchema.nullable(),
  /** Filtering by the clock; null before it is there. */
  seconds: z.number().nullable(),
});
export type DenoisedLine = z.infer<typeof denoisedLineSchema>;

/** What was measured of denoising a film. */
export interface DenoisedFigures {
  /** Filtering by the clock. */
  seconds: number;
  parts: number;
  noise: Noise;
  hot: Record<string, HotLight>;
  /** Whether the film kept guides of its own, and not first hits alone. */
  guided: boolean;
  /** How it was joined with the frames about it, null where there were none; left out where that was not asked for. */
  joined?: (JoinedFigures & { frames: FrameAbout[] }) | null;
}

/** A frame before or after, and the number of the trial that has it. */
export interface FrameAbout {
  number: number;
  frame: number;
}

/** A denoised film whole: also the layers it has, and the patches that it can be held against. */
export interface Denoised extends DenoisedLine {
  /** Tells what was made once from what was made anew; null until it is there. */
  mark: string | null;
  layers: string[];
  figures: DenoisedFigures | null;
  patches: Patches | null;
  /** Frames that it can be joined with. */
  about: FrameAbout[];
}

/** What is sent to have a trial denoised: the part of the picture that comes first, in its pixels. */
export const askDenoisedSchema = z.strictObject({
  /** Whether it is joined with the frames about it; as the trial's recipe says where it is left out. */
  joins: z.boolean().optional(),
  first: z
    .strictObject({
      x: z.number().int().min(0),
      y: z.number().int().min(0),
      width: z.number().int().min(1),
      height: z.number().int().min(1),
    })
    .nullable()
    .default(null),
});
export type AskDenoised = z.infer<typeof askDenoisedSchema>;

/** Whether its layers are there. */
export const isFiltered = (d: Pick<DenoisedLine, 'state' | 'residual'> | null): boolean =>
  d !== null && d.residual !== null && d.state !== 'failed';
/** Whether something of it is still to come. */
export const isUnderWay = (d: Pick<DenoisedLine, 'state'> | null): boolean =>
  d !== null && (d.state === 'queued' || d.state === 'filtering' || d.state === 'storing' || d.state === 'judging');
