import { z } from 'zod';
import { layerInfo } from '../film';
import { SPACE_NAMES, WORKING_SPACES } from '../image';
import { atFrame, keyFrames } from './keys';
import { maskSchema } from './mask-schema';
import { TABLE_ENCODINGS } from './operations/encodings';
import { OPERATION_SCHEMAS } from './operations/schemas';
import { placingSchema } from './place';
import { SCREENS } from './screens';
import { WAYS } from './ways';

const finite = z.number();
const unit = finite.min(0).max(1);
const rgb = z.tuple([finite, finite, finite]);
const name = z.string().min(1).max(120);

/** A screen, or a table of the stack that leads light, encoded so, to values for one. */
const displaySchema = z
  .discriminatedUnion('to', [
    z.strictObject({ to: z.enum(SCREENS) }),
    z.strictObject({ to: z.literal('table'), table: name, encoding: z.enum(TABLE_ENCODINGS) }),
  ])
  .prefault({ to: 'sRGB' });
export type StackDisplay = z.infer<typeof displaySchema>;

/** A picture that is no film. */
const plateSchema = z.strictObject({
  file: z.string().min(1),
  /** How bytes and words are encoded; floats are linear. */
  encoding: z.enum(['srgb', 'linear']).default('srgb'),
  /** How its alpha relates to its colours, where the file's own word is wrong; `none`: it has no say. */
  alpha: z.enum(['as the file says', 'straight', 'premultiplied', 'none']).default('as the file says'),
  /** Its primaries, where the file's own word is wrong; Rec.709 where it has none. */
  space: z.enum(['as the file says', ...SPACE_NAMES]).default('as the file says'),
  place: placingSchema.prefault({}),
});
export type Plate = z.infer<typeof plateSchema>;

/** Where the light of a layer comes from. */
const sourceSchema = z.discriminatedUnion('from', [
  /**
   * A layer of a film, by the film's name among the stack's. `alpha`: as the film has it, by which a sky that is seen is light without anything there; or `whole`, for
   * a picture with its sky, behind which nothing stands; or `cut`, light times alpha, which takes a sky that is seen away but for what of it lies in half-covered pixels.
   */
  z.strictObject({
    from: z.literal('film'),
    film: name,
    layer: name.default('beauty'),
    alpha: z.enum(['of the film', 'whole', 'cut']).default('of the film'),
    /** How far openness looks, where the film keeps it by reach; null: as far as its rays did. */
    reachMetres: finite.positive().nullable().default(null),
    /** A mood of the stack's by name, in which the picture and its light groups are taken; null: as rendered. */
    mood: name.nullable().default(null),
  }),
  /** A picture by its name among the stack's. */
  z.strictObject({ from: z.literal('picture'), picture: name }),
  /** A colour all over, straight, linear. */
  z.strictObject({ from: z.literal('solid'), rgb, alpha: unit.default(1) }),
]);
export type Source = z.infer<typeof sourceSchema>;

const shared = {
  name: z.string().max(120).default(''),
  on: z.boolean().default(true),
  /** Of its effect. */
  opacity: unit.default(1),
  /** A mask of the stack by its name. */
  mask: name.nullable().default(null),
};
const operation = z.discriminatedUnion('does', OPERATION_SCHEMAS);
export type Operation = z.infer<typeof operation>;

/** How a layer joins what is below: a way, or by what the layer is. */
const way = z.enum(['by itself', ...WAYS]).default('by itself');

export interface Nest {
  kind: 'nest';
  name: string;
  on: boolean;
  opacity: number;
  mask: string | null;
  way: z.infer<typeof way>;
  entries: Entry[];
  operations: Operation[];
}
const layerSchema = z.strictObject({
  kind: z.literal('layer'),
  ...shared,
  source: sourceSchema,
  way,
  /** What is done to it before it joins. */
  operations: z.array(operation).default([]),
});
const operationSchema = z.strictObject({ kind: z.literal('operation'), ...shared, operation });
export type Entry = z.infer<typeof layerSchema> | z.infer<typeof operationSchema> | Nest;

const entrySchema: z.ZodType<Entry> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    layerSchema,
    operationSchema,
    z.strictObject({
      kind: z.literal('nest'),
      ...shared,
      way,
      entries: z.array(entrySchema).max(200),
      operations: z.array(operation).default([]),
    }),
  ]),
) as z.ZodType<Entry>;

/** A stack: layers and operations from the bottom up, over films and pictures that it names. */
const stackSchema = z.strictObject({
  schema: z.literal(1).default(1),
  name: z.string().max(120).default(''),
  /** Where films, pictures and look tables are, by the names that the stack has for them: files on the command line. */
  films: z.record(name, z.string().min(1)).default({}),
  pictures: z.record(name, plateSchema).default({}),
  tables: z.record(name, z.string().min(1)).default({}),
  /** Primaries of films whose own word of them is wrong, by their names. */
  spaces: z.record(name, z.enum(SPACE_NAMES)).default({}),
  moods: z.record(name, z.string().min(1)).default({}),
  /** Primaries of light while it is worked on. Colours that the stack names are linear Rec.709 in either; factors are of its channels. */
  space: z.enum(WORKING_SPACES).default('Rec.709'),
  /** How the result is brought to a screen, last of all. */
  display: displaySchema,
  masks: z.record(name, maskSchema).default({}),
  /** Frames over which numbers are set where the shot has one alone. */
  frames: z
    .strictObject({ first: z.number().int(), last: z.number().int() })
    .refine(({ first, last }) => first < last, 'the last comes after the first')
    .nullable()
    .default(null),
  entries: z.array(entrySchema).max(400).default([]),
});
export type Stack = z.infer<typeof stackSchema>;

/** A stack that is refused: which key, and why. */
export class StackError extends Error {
  constructor(
    readonly path: string,
    readonly fault: string,
  ) {
    super(`${path || 'stack'}: ${fault}`);
  }
}

/** All entries of a stack, those of nests too, each with where it stands. */
export function entriesOf(entries: readonly Entry[], path = 'entries'): { entry: Entry; path: string }[] {
  return entries.flatMap((entry, i) => {
    const own = { entry, path: `${path}.${i}` };
    return entry.kind === 'nest' ? [own, ...entriesOf(entry.entries, `${own.path}.entries`)] : [own];
  });
}

/** A mood holds for the picture and for its light groups, and must be there. */
function checkMood({ mood, layer }: Extract<Source, { from: 'film' }>, { moods }: Stack, path: string): void {
  if (mood === null) return;
  const at = `${path}.source.mood`;
  if (!Object.hasOwn(moods, mood)) throw new StackError(at, `the stack has no mood ${mood}`);
  const { family } = layerInfo(layer);
  if (family !== 'beauty' && family !== 'group')
    throw new StackError(at, `a mood holds for the picture and its light groups, not for ${layer}`);
}

function parsed(value: unknown): Stack {
  const { data, error } = stackSchema.safeParse(value);
  if (error) throw new StackError(error.issues[0].path.join('.'), error.issues[0].message);
  if (data.display.to === 'table' && !Object.hasOwn(data.tables, data.display.table))
    throw new StackError('display.table', `the stack has no table ${data.display.table}`);
  for (const { entry, path } of entriesOf(data.entries)) {
    if (entry.kind === 'layer' && entry.source.from === 'film') checkMood(entry.source, data, path);
    if (entry.mask !== null && !Object.hasOwn(data.masks, entry.mask))
      throw new StackError(`${path}.mask`, `the stack has no mask ${entry.mask}`);
  }
  return data;
}

/** A stack's document as it is at a frame, checked there. Throws `StackError` that names the key. */
export const stackAt = (document: unknown, frame: number): Stack => parsed(atFrame(document, frame));

/** Checks a stack's document at every frame at which something of it is set. Throws `StackError` that names the key. */
export function checkStack(document: unknown): void {
  for (const frame of [1, ...keyFrames(document)]) stackAt(document, frame);
}
