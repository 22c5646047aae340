import { OF_VARIANT, StackError } from '../comp';
import { MOST_DENOISED_BYTES, neededBytes } from '../denoise';
import {
  filmBytes,
  filmKept,
  layerInfo,
  layerNames,
  layersKept,
  makeSpec,
  PARTINGS,
  type Parting,
  strangers,
} from '../film';
import { isOfVariant, type Outputs, withMade, writes } from '../outputs';
import { type Recipe, scopeSchema, withSetting } from '../recipe';
import {
  groupForEach,
  lightGroups,
  lightSources,
  MOST_GROUPS,
  type SceneDocument,
  UNASSIGNED,
  withGroups,
} from '../scene';
import { stackOver } from '../stacks';
import { dealsOut, MOST_FILM_BYTES } from './bands';
import { filesOfFrame, layersOfOutput, type RunNames, type RunOf, runPictures, takenPictures } from './plan';

/** What is about to be delivered. */
export interface Checked {
  document: SceneDocument;
  recipe: Recipe;
  outputs: Outputs;
  camera: string;
  frames: readonly number[];
  names: RunNames;
  /** The stack whose picture is delivered too; null where none is. */
  comp?: RunOf['comp'];
}

/** What puts a finding right: other settings, another scene, other outputs, or another camera. */
export interface Repair {
  words: string;
  recipe?: (recipe: Recipe) => Recipe;
  scene?: (document: SceneDocument) => SceneDocument;
  outputs?: (outputs: Outputs) => Outputs;
  camera?: string;
}

/** Something that a run would deliver by mistake. `stops`: it cannot be delivered so. */
export interface Finding {
  code: string;
  stops: boolean;
  /** One line that names what it is about. */
  words: string;
  repair: Repair | null;
}

type Look = (checked: Checked) => Finding[];

const asks = (code: string, words: string, repair: Repair | null = null): Finding => ({
  code,
  stops: false,
  words,
  repair,
});
const stops = (code: string, words: string, repair: Repair | null = null): Finding => ({
  code,
  stops: true,
  words,
  repair,
});
const set = (path: string, value: unknown) => (recipe: Recipe) => withSetting(recipe, path, value) as Recipe;
const listed = (names: readonly string[], most = 3) =>
  `${names.slice(0, most).join(', ')}${names.length > most ? ` and ${names.length - most} more` : ''}`;

const region: Look = ({ recipe: { region: r } }) =>
  r === null
    ? []
    : [
        asks('region', `only a region is rendered: ${Math.round(r.w * r.h * 100)} % of the frame`, {
          words: 'the whole frame',
          recipe: set('region', null),
        }),
      ];

const scale: Look = ({ recipe: { size } }) =>
  size.scale >= 100
    ? []
    : [
        asks('scale', `the picture is small: ${size.scale} % of ${size.width} × ${size.height}`, {
          words: 'full size',
          recipe: set('size.scale', 100),
        }),
      ];

const clay: Look = ({ recipe }) =>
  recipe.clay.on ? [asks('clay', 'surfaces are clay', { words: 'own surfaces', recipe: set('clay.on', false) })] : [];

const EVERYTHING = scopeSchema.parse({});

const scope: Look = ({ recipe, document }) => {
  const missing = strangers(recipe.scope, document);
  if (missing.length > 0)
    return [
      stops('scope', `what is rendered names what is not there: ${listed(missing.map((m) => `${m.kind} ${m.name}`))}`, {
        words: 'all of it',
        recipe: set('scope', EVERYTHING),
      }),
    ];
  if (JSON.stringify(recipe.scope) === JSON.stringify(EVERYTHING)) return [];
  const { receivers, lights, sky } = recipe.scope;
  const what = [
    ...(receivers ? [`${receivers.length} of the objects seen`] : []),
    ...(lights ? [`lit by ${listed(lights.map((l) => l.name))} alone`] : []),
    ...(sky ? [] : ['no sky seen']),
  ];
  const words = what.length > 0 ? what.join(', ') : 'some objects left out';
  return [
    asks('scope', `only a part of the scene is rendered: ${words}`, {
      words: 'all of it',
      recipe: set('scope', EVERYTHING),
    }),
  ];
};

const only: Look = ({ recipe }) =>
  recipe.film.only === 'all'
    ? []
    : [
        asks('only', `only light of ${recipe.film.only} is kept`, {
          words: 'all light',
          recipe: set('film.only', 'all'),
        }),
      ];

/** The document with sources switched on. */
function lit(document: SceneDocument, dark: readonly { kind: string; name: string }[]): SceneDocument {
  const has = (kind: string, name: string) => dark.some((d) => d.kind === kind && d.name === name);
  const { environment } = document;
  const sky = environment && has('environment', 'environment') ? { ...environment, on: true } : environment;
  const sun = sky?.kind === 'sky' && has('sun', 'sun') ? { ...sky, sun: { ...sky.sun, on: true } } : sky;
  return {
    ...document,
    environment: sun,
    lights: document.lights.map((l) => (has('light', l.name) ? { ...l, on: true } : l)),
  };
}

const dark: Look = ({ document }) => {
  const off = lightSources(document).filter((s) => !s.on && s.kind !== 'glow');
  if (off.length === 0) return [];
  const named = off.flatMap((s) => s.members.map((m) => ({ kind: s.kind, name: m.slice(s.kind.length + 1) })));
  return [
    asks(
      'dark',
      `${named.length === 1 ? 'a light is' : `${named.length} lights are`} off: ${listed(named.map((n) => n.name))}`,
      {
        words: 'switch on',
        scene: (d) => lit(d, named),
      },
    ),
  ];
};

const camera: Look = ({ document: { cameras }, camera: own }) => {
  const [first] = cameras;
  if (own === first.name) return [];
  if (!cameras.some((c) => c.name === own))
    return [stops('camera', `the scene has no camera ${own}`, { words: `through ${first.name}`, camera: first.name })];
  return [
    asks('camera', `it is seen through ${own}, not the shot's own ${first.name}`, {
      words: `through ${first.name}`,
      camera: first.name,
    }),
  ];
};

const unassigned: Look = ({ document, outputs }) => {
  const isWritten = outputs.list.some((o) => writes(o, `group.${UNASSIGNED}`));
  const loose = lightSources(document).filter((s) => s.on && s.group === UNASSIGNED);
  if (!isWritten || loose.length === 0) return [];
  return [
    asks('unassigned', `nobody put ${listed(loose.map((s) => s.name))} into a light group: written as ${UNASSIGNED}`, {
      words: 'a group for each',
      scene: (d) => {
        const each = groupForEach(d);
        const own = lightSources(d).filter((s) => s.on && s.group === UNASSIGNED);
        return withGroups(d, new Map(own.flatMap((s) => s.members.map((m) => [m, each.get(m) ?? UNASSIGNED]))));
      },
    }),
  ];
};

const WORDS: Record<Parting, string> = { group: 'light groups', class: 'path classes', bounce: 'bounces' };

/** Families of which an output writes some and not all, so that what it hands over does not add up to the picture. */
const openFamilies: Look = (checked) =>
  runPictures(checked).flatMap((picture) =>
    picture.outputs.flatMap((output) => {
      const has = withMade(layersKept(picture.recipe.film, lightGroups(checked.document)), checked.outputs.masks);
      const { chosen } = layersOfOutput(output, picture, checked);
      return PARTINGS.flatMap((family) => {
        const all = has.filter((n) => layerInfo(n).family === family);
        const own = all.filter((n) => chosen.includes(n));
        if (own.length === 0 || own.length === all.length || chosen.includes(`rest.${family}`)) return [];
        return [
          asks(
            'tally',
            `${output.name} writes ${own.length} of ${all.length} ${WORDS[family]}: they do not add up to the picture`,
            {
              words: 'add the remainder',
              outputs: (o: Outputs) => ({
                ...o,
                list: o.list.map((l) => (l.id === output.id ? { ...l, layers: [...l.layers, `rest.${family}`] } : l)),
              }),
            },
          ),
        ];
      });
    }),
  );

const groups: Look = ({ document }) => {
  const count = lightGroups(document).length;
  const named = new Set(lightSources(document).map((s) => s.group)).size;
  return named > count
    ? [asks('groups', `${named} light groups, of which films keep ${MOST_GROUPS}: the last go out as ${UNASSIGNED}`)]
    : [];
};

const written: Look = (checked) => {
  if (checked.outputs.list.length === 0 && !checked.comp)
    return [stops('outputs', 'no output is chosen: nothing would be written')];
  const absent = runPictures(checked).flatMap((p) =>
    p.outputs.flatMap((o) => layersOfOutput(o, p, checked).absent.map((layer) => ({ o, layer }))),
  );
  return absent.map(({ o, layer }) =>
    stops('layer', `${o.name} writes ${layer}, which films of this scene cannot keep`, {
      words: 'leave it out',
      outputs: (all) => ({
        ...all,
        list: all.list.map((l) => (l.id === o.id ? { ...l, layers: l.layers.filter((n) => n !== layer) } : l)),
      }),
    }),
  );
};

const names: Look = ({ frames, names, ...of }) =>
  frames.length === 0 || (of.outputs.list.length === 0 && !of.comp)
    ? []
    : [...new Set(filesOfFrame(of, names, frames[0]).faults)].map((fault) => stops('names', fault));

const few: Look = ({ recipe }) =>
  recipe.sampling.stopNoise === 0 && recipe.sampling.cameraMax < 16
    ? [
        asks(
          'samples',
          `${recipe.sampling.cameraMax} samples a pixel and no noise to stop at: a quick look, no delivery`,
        ),
      ]
    : [];

const gigabytes = (n: number) => (n / 1e9).toFixed(1);

/** Films too large for memory are rendered in bands, one after another; what needs them whole is not done of them. */
const memory: Look = (checked) =>
  runPictures(checked).flatMap(({ recipe, outputs, variant }) => {
    const spec = makeSpec(recipe, checked.document);
    const bytes = filmBytes(spec);
    if (bytes <= MOST_FILM_BYTES) return [];
    const whose = variant === null ? 'the shot’s own picture' : `the picture of ${outputs[0].name}`;
    const found: Finding[] = [];
    if (dealsOut(recipe))
      found.push(
        stops(
          'memory',
          `a film of ${whose} takes ${gigabytes(bytes)} GB and must go in bands: samples cannot be dealt out over the whole of it`,
          {
            words: 'deal out evenly',
            recipe: set('sampling.adapt', 'even'),
          },
        ),
      );
    const filtered = 2 * neededBytes(layerNames(spec), spec.region.width * spec.region.height);
    if (recipe.denoise.on && filtered > MOST_FILM_BYTES)
      found.push(
        stops(
          'memory',
          `denoising ${whose} takes ${gigabytes(filtered)} GB, and at most ${gigabytes(MOST_FILM_BYTES)} are held: write fewer layers, or a smaller picture`,
          {
            words: 'without denoising',
            recipe: set('denoise.on', false),
          },
        ),
      );
    return found;
  });

const neighbours: Look = (checked) => {
  const { recipe } = checked;
  if (!recipe.denoise.on || !recipe.denoise.neighbours) return [];
  const repair = { words: 'each by itself', recipe: set('denoise.neighbours', false) };
  const most = Math.max(
    ...runPictures(checked).map((p) => {
      const spec = makeSpec(p.recipe, checked.document);
      return neededBytes(layerNames(spec), spec.region.width * spec.region.height);
    }),
  );
  // The frame with the one before and the one after it.
  return 3 * most > MOST_DENOISED_BYTES
    ? [
        stops(
          'neighbours',
          `a frame and those about it take ${gigabytes(3 * most)} GB to be denoised joined, and at most ${gigabytes(MOST_DENOISED_BYTES)} are`,
          repair,
        ),
      ]
    : [];
};

const still: Look = ({ document, frames, outputs }) => {
  const moves =
    [document.objects, document.lights, document.cameras].some((all) => all.some((o) => o.motion !== undefined)) ||
    document.objects.some((o) => o.shapes !== undefined);
  return frames.length > 1 && !moves && outputs.list.length > 0
    ? [asks('still', `nothing moves: ${frames.length} frames would be the same but for their noise`)]
    : [];
};

const variants: Look = ({ outputs }) => {
  const own = outputs.list.some((o) => isOfVariant(o, null));
  return own || outputs.list.length === 0
    ? []
    : [asks('own', 'every output has a picture of its own: the picture of the shot itself is not delivered')];
};

/** What of the stack lacks something, and what is done by the camera and by the stack once more. */
const stacked: Look = (checked) => {
  const { comp, document, recipe, outputs, camera: name, frames } = checked;
  if (!comp || frames.length === 0) return [];
  const pictures = runPictures(checked);
  const [own] = pictures;
  const taken = takenPictures(checked);
  const keptOf = (r: Recipe) => layersKept(filmKept(r), lightGroups(document));
  try {
    const { missing, stack } = stackOver({
      document: comp.stack,
      frame: frames[0],
      kept: keptOf(own.recipe),
      scene: document,
      scale: 1,
      masks: outputs.masks,
      moods: {},
      otherFilm: (where) => {
        if (!where.startsWith(OF_VARIANT)) return { of: where };
        const picture = taken.get(where);
        return picture === undefined ? undefined : { of: where, kept: keptOf(pictures[picture].recipe) };
      },
      lookedAt: null,
    });
    const camera = document.cameras.find((c) => c.name === name);
    const isTwice =
      recipe.camera.depthOfField &&
      (camera?.fStop ?? 0) > 0 &&
      stack.entries.some((e) => e.on && 'operation' in e && e.operation.does === 'focus');
    return [
      ...(missing.size > 0
        ? [asks('stack', `${missing.size} of the stack’s entries lack what they are made of, and are left out`)]
        : []),
      ...(isTwice
        ? [
            asks('focus', 'the camera blurs what is out of focus, and so does the stack', {
              words: 'not the camera',
              recipe: set('camera.depthOfField', false),
            }),
          ]
        : []),
    ];
  } catch (error) {
    if (error instanceof StackError) return [stops('stack', `the stack cannot be read: ${error.message}`)];
    throw error;
  }
};

const LOOKS: readonly Look[] = [
  ...[written, names, memory, scope, camera, region, scale, clay, only, dark],
  ...[stacked, unassigned, groups, openFamilies, neighbours, few, still, variants],
];

/** What a run would deliver by mistake, what stops it first. */
export const leftovers = (checked: Checked): Finding[] =>
  LOOKS.flatMap((look) => look(checked)).sort((a, b) => Number(b.stops) - Number(a.stops));
