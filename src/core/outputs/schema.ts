import { z } from 'zod';
import { type FAMILIES, isRampable, layerInfo } from '../film';
import { parseRecipe, pickSchema, RecipeError } from '../recipe';
import { variantSchema, variedRecipe } from './variant';

/** Families that may be written whole, also the layers that come to them later. */
export const WHOLE_FAMILIES = ['group', 'class', 'bounce', 'mask'] as const;
export type WholeFamily = (typeof WHOLE_FAMILIES)[number];

/** What stands for all layers of a family. */
export const allOf = (family: WholeFamily): string => `${family}.*`;

export const DEPTHS = ['auto', 'half', 'float'] as const;
export const PACKINGS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'] as const;
/** Sides of tiles in pixels. */
export const TILES = [32, 64, 128, 256] as const;
export const GROUPINGS = ['one', 'family', 'layer'] as const;
/** Parts of names that are filled in, beside text and the frame. */
export const FILLED = ['shot', 'output', 'layer', 'recipe', 'camera', 'trial', 'date'] as const;

/** A part of a file's name. */
export const chipSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('text'),
    text: z.string().regex(/^[A-Za-z0-9._-]{1,40}$/, 'letters, digits, dots, hyphens and underscores only'),
  }),
  z.strictObject({ kind: z.literal('frame'), digits: z.number().int().min(1).max(8) }),
  z.strictObject({ kind: z.enum(FILLED) }),
]);
export type Chip = z.infer<typeof chipSchema>;

/** An output: which layers leave, at what depth, packed how, in which files, under which names. */
export const outputSchema = z.strictObject({
  id: z
    .string()
    .regex(/^[a-z0-9]{1,20}$/)
    .describe('Tells outputs apart; stays when one is renamed.'),
  name: z
    .string()
    .regex(/^[A-Za-z0-9_-]{1,40}$/, 'letters, digits, hyphens and underscores only, 40 at most')
    .describe('The part “output” of its files’ names.'),
  layers: z
    .array(
      z
        .string()
        .max(120)
        .regex(/^[A-Za-z0-9_.]+(\.\*)?$/),
    )
    .max(300)
    .describe('Names of layers, or a family whole: `group.*`, `class.*`, `bounce.*`, `mask.*`.'),
  depth: z.enum(DEPTHS).default('auto').describe('`auto` takes half where rounding is safe, else float.'),
  compression: z
    .enum(PACKINGS)
    .default('zip')
    .describe(
      'The first five give back the same bits. `pxr24` rounds floats to 24 bits; `b44` and `b44a` keep halves to about seven bits and leave floats as they are; `dwaa` and `dwab` keep of colours what the eye sees. Depth, ids and the like are then left to ZIP.',
    ),
  tilePx: z
    .union([z.literal(32), z.literal(64), z.literal(128), z.literal(256)])
    .nullable()
    .default(null)
    .describe('Side of tiles, for readers that look at a piece at a time; `null` = lines.'),
  reachMetres: z
    .number()
    .positive()
    .nullable()
    .default(null)
    .describe(
      'How far openness (`occlusion`) looks, as the nearest of the reaches that films keep; `null` = to the end.',
    ),
  prefix: z
    .string()
    .regex(/^[A-Za-z0-9_-]{0,20}$/, 'letters, digits, hyphens and underscores only, 20 at most')
    .default('')
    .describe('Stands before the names of layers in its files; the beauty and ids keep theirs.'),
  grouping: z.enum(GROUPINGS).default('one').describe('One file for all, one a family, or one a layer.'),
  parts: z.enum(['many', 'one']).default('many').describe('A part of the file a layer, or all channels in one part.'),
  names: z
    .array(chipSchema)
    .min(1)
    .max(24)
    .default([
      { kind: 'shot' },
      { kind: 'text', text: '_' },
      { kind: 'output' },
      { kind: 'text', text: '_' },
      { kind: 'trial' },
      { kind: 'text', text: '.' },
      { kind: 'frame', digits: 4 },
    ])
    .describe('What the names of files are made of, one after another.'),
  variant: variantSchema
    .nullable()
    .default(null)
    .describe(
      'Settings of the recipe that its own picture differs in, by their dotted names; `null` = the picture of the shot.',
    ),
});
export type Output = z.infer<typeof outputSchema>;

/** Data led through a ramp. */
export const rampSchema = z
  .strictObject({
    layer: z.string().refine(isRampable, 'a layer of data that a recipe can ask for'),
    channel: z.string(),
    from: z.number(),
    to: z.number(),
  })
  .refine(({ layer, channel }) => layerInfo(layer).channels.includes(channel), {
    path: ['channel'],
    message: 'the layer has no such channel',
  });

/** A mask: a named choice of objects, data through a ramp, or both. */
export const maskSchema = z.strictObject({
  name: z
    .string()
    .regex(/^[a-z0-9_]{1,40}$/, 'use a-z, 0-9 and _')
    .describe('Its layer is `mask.` and this.'),
  of: z
    .array(pickSchema)
    .max(4096)
    .default([])
    .describe('What it picks, all together; with a ramp and no pick it is the ramp in all of the picture.'),
  ramp: rampSchema
    .nullable()
    .default(null)
    .describe('Data that it is multiplied by: 0 up to `from`, 1 from `to` on, falling where `to` is less.'),
});
export type Mask = z.infer<typeof maskSchema>;

/** The outputs of a shot, and the masks that they may write. */
export const outputsSchema = z
  .strictObject({
    schema: z.literal(1).default(1),
    list: z.array(outputSchema).max(24),
    masks: z.array(maskSchema).max(64).default([]),
  })
  .superRefine(({ list, masks }, context) => {
    masks.forEach(({ name }, i) => {
      if (masks.findIndex((m) => m.name === name) < i)
        context.addIssue({ code: 'custom', path: ['masks', i, 'name'], message: `${name} is there twice` });
    });
    for (const key of ['id', 'name'] as const)
      list.forEach((output, i) => {
        if (list.findIndex((o) => o[key] === output[key]) < i)
          context.addIssue({ code: 'custom', path: ['list', i, key], message: `${output[key]} is there twice` });
      });
    list.forEach(({ variant }, i) => {
      try {
        variedRecipe(parseRecipe({}), variant);
      } catch (error) {
        if (!(error instanceof RecipeError)) throw error;
        context.addIssue({ code: 'custom', path: ['list', i, 'variant'], message: error.message });
      }
    });
    list.forEach(({ layers }, i) => {
      layers.forEach((layer, j) => {
        if (layer.endsWith('.*') && !WHOLE_FAMILIES.some((f) => allOf(f) === layer))
          context.addIssue({
            code: 'custom',
            path: ['list', i, 'layers', j],
            message: `${layer}: whole are ${WHOLE_FAMILIES.map(allOf).join(', ')}`,
          });
      });
    });
  });
export type Outputs = z.infer<typeof outputsSchema>;

/** Outputs that are refused: which key, and why. */
export class OutputsError extends Error {
  constructor(
    readonly path: string,
    readonly fault: string,
  ) {
    super(`${path || 'outputs'}: ${fault}`);
  }
}

/** Outputs as they were sent or read, checked. Throws `OutputsError` that names the key. */
export function parseOutputs(value: unknown): Outputs {
  const { data, error } = outputsSchema.safeParse(value);
  if (data) return data;
  const [issue] = error.issues;
  throw new OutputsError(issue.path.join('.'), issue.message);
}

/** What a shot has before anyone has chosen: one output of the picture, all of its parts, and the data that a comp asks for first. */
export const FIRST_OUTPUTS: Outputs = parseOutputs({
  list: [
    {
      id: 'first',
      name: 'parts',
      layers: ['beauty', allOf('group'), allOf('class'), 'alpha', 'depth', 'N', 'albedo', 'coverage'],
    },
  ],
});

/** Words for a family in the name of a file. */
export const FAMILY_WORDS: Record<keyof typeof FAMILIES, string> = {
  beauty: 'beauty',
  group: 'groups',
  class: 'classes',
  pair: 'pairs',
  bounce: 'bounces',
  lost: 'lost',
  feature: 'data',
  mask: 'masks',
  rest: 'rest',
  half: 'halves',
  group_half: 'halves',
};
