/** Words for settings, as the interface and the logbook say them. */
const LABELS: Record<string, string> = {
  'size.width': 'width',
  'size.height': 'height',
  'size.scale': 'test scale',
  region: 'region',
  displacement: 'displacement',
  'sampling.cameraMin': 'least camera samples',
  'sampling.cameraMax': 'camera samples',
  'sampling.stopNoise': 'stop threshold',
  'sampling.adapt': 'how samples are dealt out',
  'sampling.watch': 'watched for noise',
  'sampling.tileOrder': 'order of cells',
  'sampling.splits.diffuse': 'diffuse splits',
  'sampling.splits.reflection': 'reflection splits',
  'sampling.splits.transmission': 'transmission splits',
  'sampling.splits.fog': 'fog splits',
  'sampling.lightSamples': 'light samples',
  'sampling.filter.kind': 'filter',
  'sampling.filter.widthPx': 'filter width',
  'sampling.outlierLimit.first': 'first outlier limit',
  'sampling.outlierLimit.later': 'later outlier limit',
  'sampling.seed': 'seed',
  'rayDepth.all': 'ray depth',
  'rayDepth.diffuse': 'diffuse depth',
  'rayDepth.reflection': 'reflection depth',
  'rayDepth.transmission': 'transmission depth',
  'rayDepth.fog': 'fog depth',
  'rayDepth.holes': 'cut-outs',
  'rayDepth.rouletteStart': 'roulette start',
  'rayDepth.reachMetres': 'reach',
  'rayDepth.caustics': 'caustics',
  'rayDepth.softenCaustics': 'caustic softening',
  'clay.on': 'clay',
  'clay.grey': 'grey of clay',
  'clay.except': 'kept out of clay',
  'clay.keepEmission': 'glow in clay',
  'clay.keepGlass': 'glass in clay',
  'clay.occlusion': 'occlusion in clay',
  'clay.backs': 'backs of clay',
  'camera.depthOfField': 'depth of field',
  'camera.motionBlur': 'motion blur',
  'sampling.seedLocked': 'seed lock',
  'film.only': 'what is rendered',
  'film.pairs': 'pairs',
  'film.ledger': 'bounce ledger',
  'film.lostLight': 'lost light',
  'film.lostChance': 'share followed for lost light',
};

export function settingLabel(path: string): string {
  return LABELS[path] ?? path;
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
