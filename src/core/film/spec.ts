import {
  COVERAGE_SLOTS,
  GUIDE_PLANES,
  LEDGER_PLANES,
  LIGHT_SIGHTS,
  PATH_CLASSES,
  PLANE_BYTES,
  type PlaneMap,
  TABLE_BYTES,
  TILE_SIZE,
} from '../kernel';
import { type FeatureName, frameOf, type Recipe } from '../recipe';
import { coverageNames, groupNumber, lightGroups, partOf, type SceneDocument } from '../scene';
import { FEATURES, filmKept, isMask } from './catalogue';

/** What a film holds and how its tiles are laid out; plain data, the same in every process. */
export interface FilmSpec {
  /** The whole frame, and where the film's pixels lie in it. */
  frame: { width: number; height: number };
  region: { x: number; y: number; width: number; height: number };
  groups: string[];
  coverage: string[];
  /** Materials and sets by name, and of each object the number of its material, −1 = none, and of all sets it is in. */
  materials: { names: string[]; of: number[] };
  sets: { names: string[]; of: number[][] };
  planes: PlaneMap;
  tilesX: number;
  tilesY: number;
  /** Bytes of one tile: its planes, then its tables. */
  tileBytes: number;
}

/** Planes a tile holds of a feature. */
function planesOf(feature: FeatureName): number {
  if (isMask(feature)) return COVERAGE_SLOTS * 2;
  // Of a shadow: light without and with what casts it, and how often a catcher was met.
  if (feature === 'shadow') return 7;
  return isOfDirectLight(feature) ? 6 : FEATURES[feature].channels.length;
}

/** What is made of direct light without and with what stands in its way. */
const isOfDirectLight = (feature: FeatureName) => feature === 'unshadowed' || feature === 'shadowing';

/** The planes that a feature is made of, by a name: masks of all kinds are made of the objects' coverage. */
const madeOf = (feature: FeatureName): string => {
  if (isMask(feature)) return 'coverage';
  return isOfDirectLight(feature) ? 'direct light' : feature;
};

function memberships(document: SceneDocument): Pick<FilmSpec, 'materials' | 'sets'> {
  const materials = document.materials.map((m) => m.name);
  const sets = Object.keys(document.sets);
  const setsOf = new Map<string, number[]>();
  sets.forEach((s, i) => {
    for (const o of new Set(document.sets[s])) setsOf.set(o, [...(setsOf.get(o) ?? []), i]);
  });
  const number = new Map(materials.map((m, i) => [m, i]));
  return {
    materials: { names: materials, of: document.objects.map((o) => number.get(o.material) ?? -1) },
    sets: { names: sets, of: document.objects.map((o) => setsOf.get(o.name) ?? []) },
  };
}

/** Whether a film keeps openness by reach: those made before that was kept have one plane of it. */
export function keepsReaches({ planes: { features, pairs, ...planes } }: Pick<FilmSpec, 'planes'>): boolean {
  const from = features.occlusion;
  if (from === undefined) return false;
  const starts = [...Object.values(features), ...Object.values(pairs), planes.count];
  return Math.min(...starts.filter((at) => at > from)) - from > 1;
}

/** Groups of a film that keep what others emit as the camera sees it in one way: by number of that × count of ways + way. */
function sightsOf(groups: readonly string[]): Record<number, number> {
  const entries = groups.flatMap((name, to): [number, number][] => {
    const { group, part } = partOf(name);
    if (part === null) return [];
    return [[groupNumber(groups, group) * LIGHT_SIGHTS.length + LIGHT_SIGHTS.indexOf(part), to]];
  });
  return Object.fromEntries(entries);
}

export function makeSpec(recipe: Recipe, document: SceneDocument): FilmSpec {
  const { width, height, region } = frameOf(recipe);
  const groups = lightGroups(document);
  const film = filmKept(recipe);
  let count = 6;
  const take = (on: boolean, planes: number) => {
    if (!on) return -1;
    count += planes;
    return count - planes;
  };
  const planes = {
    groups: take(film.groups, groups.length * 6),
    classes: take(film.classes, PATH_CLASSES.length * 3),
    ledger: take(film.ledger !== 'off', LEDGER_PLANES * 3),
    lost: take(film.lostLight, 3),
    near: take(
      film.features.some((f) => FEATURES[f].how === 'nearest'),
      1,
    ),
    guides: take(film.guides, GUIDE_PLANES * 2),
    features: {} as PlaneMap['features'],
    pairs: {} as Record<number, number>,
    sights: sightsOf(groups),
    count: 0,
  };
  const starts = new Map<string, number>();
  for (const f of film.features) {
    const at = starts.get(madeOf(f)) ?? take(true, planesOf(f));
    starts.set(madeOf(f), at);
    planes.features[f] = at;
  }
  for (const pair of film.pairs) {
    const group = groups.indexOf(pair.group);
    // A group that this scene does not have has no light in any class.
    if (group >= 0) planes.pairs[group * PATH_CLASSES.length + PATH_CLASSES.indexOf(pair.class)] = take(true, 3);
  }
  planes.count = count;
  return {
    frame: { width, height },
    region,
    groups,
    coverage: coverageNames(document),
    ...memberships(document),
    planes,
    tilesX: Math.ceil(region.width / TILE_SIZE),
    tilesY: Math.ceil(region.height / TILE_SIZE),
    tileBytes: count * PLANE_BYTES + TABLE_BYTES,
  };
}

/** Bytes a film of this spec takes in memory. */
export function filmBytes(spec: FilmSpec): number {
  return spec.tilesX * spec.tilesY * (spec.tileBytes + 8);
}
