import { z } from 'zod';

/** What things are picked by: their names, or objects whose names are like a pattern (`*` any letters, `?` one). */
export const PICK_KINDS = ['object', 'material', 'set', 'like'] as const;
export const pickSchema = z.strictObject({ kind: z.enum(PICK_KINDS), name: z.string().min(1).max(120) });

const picks = z.array(pickSchema).max(4096);

/** Which part of a scene is rendered. As it stands by default, all of it. */
export const scopeSchema = z.strictObject({
  receivers: picks
    .nullable()
    .default(null)
    .describe('Objects and shapes of lights that the camera sees; `null` = all.'),
  casters: picks
    .nullable()
    .default(null)
    .describe(
      'Objects that the camera does not see but that throw shadows, reflect and glow; `null` = all that are no receivers. What is neither is not there.',
    ),
  catchers: picks
    .default([])
    .describe('Objects that the camera does not see either, but whose shadow of others the plane `shadow` keeps.'),
  others: z
    .enum(['unseen', 'holdout'])
    .default('unseen')
    .describe('What the camera meets where an object is no receiver: what is behind it, or a hole.'),
  sky: z.boolean().default(true).describe('Whether the camera sees the environment and its sun.'),
  lights: z
    .array(
      z.strictObject({ kind: z.enum(['group', 'light', 'glow', 'sun', 'environment']), name: z.string().max(120) }),
    )
    .max(512)
    .nullable()
    .default(null)
    .describe(
      'Sources that shine: light groups, lights, glowing objects by name, `sun` and `environment`; `null` = all.',
    ),
});
export type Scope = z.infer<typeof scopeSchema>;
