import { z } from 'zod';
import { identifier, shotName } from './terms';

const pick = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('live') }),
  z.strictObject({ kind: z.literal('trial'), id: identifier, denoised: z.boolean().optional() }),
  z.strictObject({ kind: z.literal('reference'), name: z.string().max(120) }),
]);

/** What was last looked at: the shot, the view, and what A and B showed. */
export const lastDeskSchema = z.strictObject({
  shot: shotName,
  view: z.string().max(40),
  a: pick,
  b: pick.nullable(),
});
export type LastDesk = z.infer<typeof lastDeskSchema>;
