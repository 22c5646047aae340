import { z } from 'zod';

/** Stops that a gain may have, either way. */
export const MOST_STOPS = 20;
const [LEAST_KELVIN, MOST_KELVIN] = [1000, 40000];

const channel = z.number().min(0).max(1000);
const rgb = z.tuple([channel, channel, channel]);

/** What becomes of the colour of a light group. Linear Rec.709. */
export const mixColorSchema = z
  .discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('own') }),
    /** Every channel times this. */
    z.strictObject({ kind: z.literal('tint'), rgb }),
    /** The colour that is emitted, at the brightness that there is. */
    z.strictObject({
      kind: z.literal('emitted'),
      rgb: rgb.refine((c) => c.some((v) => v > 0), 'black is no colour: switch the group off'),
    }),
    z.strictObject({ kind: z.literal('kelvin'), kelvin: z.number().min(LEAST_KELVIN).max(MOST_KELVIN) }),
  ])
  .default({ kind: 'own' });
export type MixColor = z.infer<typeof mixColorSchema>;

/** What a mix does to one light group. */
export const groupMixSchema = z.strictObject({
  /** Gain. */
  stops: z.number().min(-MOST_STOPS).max(MOST_STOPS).default(0),
  on: z.boolean().default(true),
  color: mixColorSchema,
});
export type GroupMix = z.infer<typeof groupMixSchema>;

/** Gains and colours by light group; what is not named is as it was rendered. What stands for a group holds for all that is in it. */
export const mixSchema = z.record(
  z.string().regex(/^[a-z0-9_]{1,40}(\.[a-z0-9_]{1,40}){0,2}$/, 'use a-z, 0-9 and _'),
  groupMixSchema,
);
export type Mix = z.infer<typeof mixSchema>;

/** Frames at which a mix may be set. */
export const MOST_KEYS = 200;

const timedShape = {
  /** What it is where nothing is keyed; the first key's otherwise. */
  mix: mixSchema,
  /** What it is at frames, ascending; between them gains go evenly in stops, colours in linear light. */
  keys: z
    .array(z.strictObject({ frame: z.number().int(), mix: mixSchema }))
    .max(MOST_KEYS, `at most ${MOST_KEYS} keys`)
    .refine((k) => k.every(({ frame }, i) => i === 0 || frame > k[i - 1].frame), 'frames of keys ascend, each once')
    .default([]),
};
/** A mix, and what it is at frames where it changes over them. */
const timedSchema = z.strictObject(timedShape);
export type Timed = z.infer<typeof timedSchema>;
export type Key = Timed['keys'][number];

/** Moods of before there were keys kept what they had been as bare mixes. */
const earlierSchema = z.preprocess((value) => {
  const { mix } = Object(value) as { mix?: { stops?: unknown } };
  return mix === undefined || typeof mix.stops === 'number' ? { mix: value } : value;
}, timedSchema);

const MOST_EARLIER = 12;
const moodName = z.string().trim().min(1, 'a mood needs a name').max(60, 'at most 60 letters');

/** A mix that is kept, and those it was before, the latest first. */
export const moodSchema = z.strictObject({
  id: z.string().regex(/^[a-z0-9]{1,20}$/),
  name: moodName,
  ...timedShape,
  earlier: z.array(earlierSchema).max(MOST_EARLIER).default([]),
});
export type Mood = z.infer<typeof moodSchema>;

export const MOST_MOODS = 60;
const MOST_FORGOTTEN = 60;

/** The mix at hand, and the moods of a shot. */
export const moodsSchema = z
  .strictObject({
    schema: z.literal(1).default(1),
    /** The mix at hand, and the mood that it was last, by its id. */
    now: z.strictObject({ ...timedShape, mood: z.string().nullable() }).default({ mix: {}, keys: [], mood: null }),
    list: z.array(moodSchema).max(MOST_MOODS, `a shot keeps ${MOST_MOODS} moods at most`).default([]),
    /** Moods that were taken away, the latest first. */
    forgotten: z.array(moodSchema).default([]),
  })
  .superRefine(({ list }, context) => {
    for (const key of ['id', 'name'] as const)
      list.forEach((mood, i) => {
        if (list.findIndex((m) => m[key] === mood[key]) < i)
          context.addIssue({ code: 'custom', path: ['list', i, key], message: `${mood[key]} is there twice` });
      });
  })
  .transform((moods) => ({ ...moods, forgotten: moods.forgotten.slice(0, MOST_FORGOTTEN) }));
export type Moods = z.infer<typeof moodsSchema>;

/** A mood as a file of its own. */
const moodFileSchema = z.strictObject({ schema: z.literal(1).default(1), name: moodName, ...timedShape });
export type MoodFile = z.infer<typeof moodFileSchema>;

/** Moods that are refused: which key, and why. */
export class MoodsError extends Error {
  constructor(
    readonly path: string,
    readonly fault: string,
  ) {
    super(`${path || 'mood'}: ${fault}`);
  }
}

function parse<T>(schema: z.ZodType<T>, value: unknown): T {
  const { data, error } = schema.safeParse(value);
  if (error === undefined) return data;
  const [issue] = error.issues;
  throw new MoodsError(issue.path.join('.'), issue.message);
}

/** Moods as they were sent or read, checked. Throws `MoodsError` that names the key. */
export const parseMoods = (value: unknown): Moods => parse(moodsSchema, value);

/** A mood of a file, checked. Throws `MoodsError` that names the key. */
export const parseMoodFile = (value: unknown): MoodFile => parse(moodFileSchema, value);

/** What a shot has before anyone has balanced it. */
export const NO_MOODS: Moods = parseMoods({});

/** A mood with another mix, which keeps what it was. */
export const withMix = (mood: Mood, { mix, keys }: Timed): Mood => ({
  ...mood,
  mix,
  keys,
  earlier: [{ mix: mood.mix, keys: mood.keys }, ...mood.earlier].slice(0, MOST_EARLIER),
});
