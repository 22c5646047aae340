import { z } from 'zod';
import { identifier } from './terms';

const factor = z.number().min(0).max(1000);
/** What a mood does to each light group. */
export const balanceSchema = z.record(
  z.string().max(40),
  z.strictObject({
    stops: z.number().min(-20).max(20),
    color: z.tuple([factor, factor, factor]),
    on: z.boolean(),
    solo: z.boolean(),
  }),
);
const name = z.string().trim().min(1).max(60);

export const newMoodSchema = z.strictObject({ name, balance: balanceSchema });
export const moodNameSchema = z.strictObject({ name });
export const moodSchema = z.object({ id: identifier, name: z.string(), balance: balanceSchema });
export type Mood = z.infer<typeof moodSchema>;
