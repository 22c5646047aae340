import type { PATH_CLASS_NAMES } from './schema';

/**
 * Every setting of a recipe in one table, by its dotted name: its words, its control, what it governs, what a ladder may do
 * with it. Limits and defaults stand in the schema. Order is the order of the rows.
 */

/** Kinds of rays as films count them. */
export type RayKind = 'camera' | 'diffuse' | 'reflection' | 'transmission' | 'fog' | 'shadow' | 'twin';
/** Counts whose doubling can be told from short renders. */
export type CountKind = 'samples' | 'diffuse' | 'reflection' | 'transmission' | 'fog' | 'light';
/** Sections of the recipe's panel. */
export type SettingSection = 'Sampling' | 'Ray depth' | 'Outlier limits' | 'Denoise' | 'Picture';

export interface Setting {
  /** As the logbook says a change of it. */
  words: string;
  /** As a row or control is headed. */
  label: string;
  /** What it does, what it cures and what it costs. */
  tip: string;
  /** Section it has a row in; null where it has none of its own. */
  section: SettingSection | null;
  /** Shares the row of another setting. */
  beside: string | null;
  unit: string;
  control: Control;
  /** Measured noise and rays that it governs. */
  governs: { classes: readonly (typeof PATH_CLASS_NAMES)[number][]; rays: readonly RayKind[] } | null;
  /** The count whose doubling tells what doubling it does. */
  count: CountKind | null;
  /** Rays it is about: a picture that has none of them says so. */
  idle: { kind: RayKind; words: string; byRays: boolean } | null;
  /** How a ladder steps it: in doublings, in even steps, or not at all. */
  ladder: 'counts' | 'measures' | null;
}

export type Control =
  | { kind: 'number'; step: number; off: 'null' | 'zero' | null; whole: boolean }
  | { kind: 'toggle' }
  | { kind: 'choice'; options: Record<string, string> }
  /** Set elsewhere than in a row: by drawing, by clicking, from files. */
  | { kind: 'elsewhere' };

type Rest = Partial<Omit<Setting, 'words' | 'control'>>;
const make = (words: string, control: Control, rest: Rest): Setting => ({
  words,
  label: words,
  tip: '',
  section: null,
  beside: null,
  unit: '',
  governs: null,
  count: null,
  idle: null,
  ladder: null,
  ...rest,
  control,
});
const elsewhere = (words: string): Setting => make(words, { kind: 'elsewhere' }, {});
const count = (words: string, rest: Rest): Setting =>
  make(words, { kind: 'number', step: 1, off: null, whole: true }, rest);
const number = (words: string, step: number, off: 'null' | 'zero' | null, rest: Rest): Setting =>
  make(words, { kind: 'number', step, off, whole: false }, rest);
const toggle = (words: string, rest: Rest): Setting => make(words, { kind: 'toggle' }, rest);
const choice = (words: string, options: Record<string, string>, rest: Rest): Setting =>
  make(words, { kind: 'choice', options }, rest);

type Lobe = 'diffuse' | 'reflection' | 'transmission';
const splits = (kind: Lobe, idle: string, tip: string): Setting =>
  count(`${kind} splits`, {
    label: `${kind[0].toUpperCase()}${kind.slice(1)} splits`,
    tip,
    section: 'Sampling',
    governs: { classes: [`indirect_${kind}`], rays: [kind] },
    count: kind,
    idle: { kind, words: `no ${idle} here`, byRays: false },
    ladder: 'counts',
  });
const depth = (kind: Lobe | 'fog', tip: string): Setting =>
  count(`${kind} depth`, {
    label: `${kind[0].toUpperCase()}${kind.slice(1)}`,
    tip,
    section: 'Ray depth',
    idle: { kind, words: `no ${kind} rays here`, byRays: true },
    ladder: 'counts',
  });

export const SETTINGS: Record<string, Setting> = {
  'size.width': elsewhere('width'),
  'size.height': elsewhere('height'),
  region: elsewhere('region'),
  displacement: elsewhere('displacement'),

  'sampling.cameraMin': count('least camera samples', {
    label: 'Least camera samples',
    beside: 'sampling.cameraMax',
  }),
  'sampling.cameraMax': count('camera samples', {
    label: 'Camera samples',
    tip: 'Least and most camera samples a pixel gets. They sharpen edges and everything behind them; four times as many halve the noise.',
    section: 'Sampling',
    governs: { classes: ['emission'], rays: ['camera'] },
    count: 'samples',
    ladder: 'counts',
  }),
  'sampling.stopNoise': number('stop threshold', 0.5, 'zero', {
    label: 'Stop threshold',
    tip: 'A 16×16 cell stops between the least and the most samples once its own noise is below this, in percent of display white. Off gives every cell the most.',
    section: 'Sampling',
    unit: '%',
  }),
  'sampling.adapt': choice(
    'how samples are dealt out',
    { even: 'evenly', cheapest: 'for the least rays' },
    {
      label: 'Dealt out',
      tip: 'Evenly: each cell stops by itself at the threshold. For the least rays: cells get samples by what a sample cures there and what it costs, until the whole frame is at the threshold.',
      section: 'Sampling',
    },
  ),
  'sampling.watch': choice(
    'watched for noise',
    { beauty: 'of the picture', groups: 'of every group' },
    {
      label: 'Noise watched',
      tip: 'Whose noise the threshold is held against: the picture’s, or the worst of it and each light group by itself. A group that is dim now stays grainy otherwise, and shows when it is lifted later.',
      section: 'Sampling',
    },
  ),
  'sampling.splits.diffuse': splits(
    'diffuse',
    'diffuse light',
    'Diffuse paths followed from the first hit for each camera sample. Cures noise of light that came by way of another surface, at the cost of diffuse rays.',
  ),
  'sampling.splits.reflection': splits(
    'reflection',
    'reflection',
    'Reflection paths followed from the first hit for each camera sample.',
  ),
  'sampling.splits.transmission': splits(
    'transmission',
    'transmission',
    'Transmission paths followed from the first hit for each camera sample: for noise seen through glass.',
  ),
  'sampling.splits.fog': count('fog splits', {
    label: 'Fog splits',
    tip: 'Places along each camera ray where fog is lit, and paths that go on from there. Cures the grain of beams and haze; without fog in the shot it costs nothing.',
    section: 'Sampling',
    governs: { classes: ['direct_fog', 'indirect_fog'], rays: ['fog'] },
    count: 'fog',
    idle: { kind: 'fog', words: 'no fog here', byRays: false },
    ladder: 'counts',
  }),
  'sampling.lightSamples': count('light samples', {
    label: 'Light samples',
    tip: 'Light samples where a path first meets a surface that can gather light. Cures the grain of direct light and soft shadows.',
    section: 'Sampling',
    governs: { classes: ['direct_diffuse', 'direct_reflection', 'direct_transmission'], rays: ['shadow', 'twin'] },
    count: 'light',
    ladder: 'counts',
  }),

  'rayDepth.all': count('ray depth', {
    label: 'All',
    tip: 'Continuation rays of all kinds together, 0–64.',
    section: 'Ray depth',
    ladder: 'counts',
  }),
  'rayDepth.diffuse': depth('diffuse', 'Diffuse continuation rays. 0 = direct light only.'),
  'rayDepth.reflection': depth('reflection', 'Reflection continuation rays.'),
  'rayDepth.transmission': depth(
    'transmission',
    'Transmission continuation rays. A pane with two faces needs 2, a prism behind a prism 4; too few turn glass dark.',
  ),
  'rayDepth.fog': depth(
    'fog',
    'Continuation rays from fog. 0 = light that fog scatters once, which is most of a beam in thin fog.',
  ),
  'rayDepth.caustics': toggle('caustics', {
    label: 'Caustics',
    tip: 'Light that reaches a diffuse surface through sharp reflection or transmission. Off removes exactly this part of the picture, and its noise.',
    section: 'Ray depth',
    governs: { classes: ['caustic'], rays: [] },
  }),
  'rayDepth.softenCaustics': number('caustic softening', 0.05, null, {
    label: 'Caustic softening',
    tip: 'Least roughness of mirrors and glass for light on its way to a matt surface. Less noise, softer caustics; what the camera sees in glass stays sharp.',
    section: 'Ray depth',
    ladder: 'measures',
  }),
  'rayDepth.reachMetres': number('reach', 1, 'null', {
    label: 'Reach',
    tip: 'Length at which continuation rays are cut, in metres. Off lets them go as far as the scene does.',
    section: 'Ray depth',
    unit: 'm',
    ladder: 'measures',
  }),
  'rayDepth.holes': count('cut-outs', {}),
  'rayDepth.rouletteStart': count('roulette start', { ladder: 'counts' }),
  'film.lostLight': toggle('lost light', {
    label: 'Lost light',
    tip: 'Follows a few paths beyond the limits and keeps what they bring apart: what ray depth and reach cost in light, told without a second render.',
    section: 'Ray depth',
  }),

  'sampling.outlierLimit.first': number('first outlier limit', 0.5, 'null', {
    label: 'First hit',
    unit: 'stops',
    tip: 'Brightest contribution straight from a light at the first hit, in stops above display white. Brighter ones are scaled down, equally in all parts, so the tally holds.',
    section: 'Outlier limits',
    ladder: 'measures',
  }),
  'sampling.outlierLimit.later': number('later outlier limit', 0.5, 'null', {
    label: 'Later',
    unit: 'stops',
    tip: 'The same for light that came over further bounces: tames single hot pixels, and takes some light with them.',
    section: 'Outlier limits',
    ladder: 'measures',
  }),

  'sampling.filter.kind': choice(
    'filter',
    { box: 'box', tent: 'tent', gauss: 'gauss' },
    {
      label: 'Filter',
      tip: 'Shape and whole width of the pixel filter. Samples are drawn from it, so noise stays honest.',
      section: 'Picture',
    },
  ),
  'sampling.filter.widthPx': number('filter width', 0.25, null, {
    label: 'Filter width',
    beside: 'sampling.filter.kind',
    unit: 'px',
    ladder: 'measures',
  }),
  'size.scale': number('test scale', 5, null, {
    label: 'Test scale',
    tip: 'Renders fewer pixels with the same framing, in percent.',
    section: 'Picture',
    unit: '%',
    ladder: 'measures',
  }),
  'camera.depthOfField': toggle('depth of field', {
    label: 'Depth of field',
    tip: 'Whether the lens blurs what is out of focus.',
    section: 'Picture',
  }),
  'camera.motionBlur': toggle('motion blur', {
    label: 'Motion blur',
    tip: 'Whether what moves while the shutter is open is blurred.',
    section: 'Picture',
  }),
  'clay.on': toggle('clay', {
    label: 'Clay',
    tip: 'Shows surfaces as grey matt clay, glass and glowing ones as they are, so that light is judged alone.',
    section: 'Picture',
  }),
  'sampling.seed': count('seed', {
    label: 'Seed',
    tip: 'The same seed and recipe give the same film, bit for bit, on any machine.',
    section: 'Picture',
  }),
  'sampling.seedLocked': toggle('seed lock', {}),
  'sampling.tileOrder': elsewhere('order of cells'),

  'scope.receivers': elsewhere('rendered'),
  'scope.casters': elsewhere('casting unseen'),
  'scope.catchers': elsewhere('catching shadow'),
  'scope.others': elsewhere('where others stand'),
  'scope.sky': elsewhere('sky seen'),
  'scope.lights': elsewhere('lights that shine'),

  'clay.grey': elsewhere('grey of clay'),
  'clay.except': elsewhere('kept out of clay'),
  'clay.keepEmission': elsewhere('glow in clay'),
  'clay.keepGlass': elsewhere('glass in clay'),
  'clay.occlusion': elsewhere('occlusion in clay'),
  'clay.backs': elsewhere('backs of clay'),

  'denoise.on': toggle('denoising with the trial', {
    label: 'Denoise with the trial',
    tip: 'Denoises the film as soon as the trial is done and keeps what came out beside the plain film. The film then also keeps what denoising is steered by, in halves: 14 more planes.',
    section: 'Denoise',
  }),
  'denoise.strength': number('strength of denoising', 10, null, {
    label: 'Strength',
    tip: 'How much of what denoising made is taken. It blends in linear light after the render, so it can be changed on the trial itself without filtering again.',
    section: 'Denoise',
    unit: '%',
  }),
  'denoise.neighbours': toggle('frames joined', {
    label: 'Join frames',
    tip: 'Joins a denoised frame with the frame before and after it, where trials of the same scene, camera and size have them: things are followed by their motion, and what differs by more than noise is left out. Less noise, and less flicker. The film then keeps motion, albedo, normals and alpha.',
    section: 'Denoise',
  }),
  'film.guides': elsewhere('guides of denoising kept'),
  'film.groups': elsewhere('light groups kept'),
  'film.classes': elsewhere('path classes kept'),
  'film.only': elsewhere('what is rendered'),
  'film.pairs': elsewhere('pairs'),
  'film.ledger': elsewhere('bounce ledger'),
  'film.lostChance': elsewhere('share followed for lost light'),
  'film.features': elsewhere('data planes kept'),
  'film.occlusion.rays': elsewhere('rays of occlusion'),
  'film.occlusion.spreadDegrees': elsewhere('spread of occlusion'),
  'film.occlusion.reachMetres': elsewhere('reach of occlusion'),
};

/** Settings with a row of their own, in order. */
export const settingRows = (section: SettingSection): string[] =>
  Object.keys(SETTINGS).filter((path) => SETTINGS[path].section === section);

/** Settings that a ladder can step. */
export const LADDER_SETTINGS: string[] = Object.keys(SETTINGS).filter((path) => SETTINGS[path].ladder !== null);

export function settingLabel(path: string): string {
  return Object.hasOwn(SETTINGS, path) ? SETTINGS[path].words : path;
}

function valueText(value: unknown): string {
  if (value === null) return 'off';
  if (value === true) return 'on';
  if (value === false) return 'off';
  if (typeof value === 'object') return 'set';
  return String(value);
}

/** One change in words: "light samples 1 → 2". */
export function changeText(change: { path: string; from: unknown; to: unknown }): string {
  return `${settingLabel(change.path)} ${valueText(change.from)} → ${valueText(change.to)}`;
}
