import { z } from 'zod';

/** How the server words a refusal: what, where, and what is allowed. */
export const faultSchema = z.object({
  error: z.object({
    code: z.string(),
    path: z.string(),
    message: z.string(),
    limits: z.unknown().optional(),
  }),
});
