import {
  LADDER_SETTINGS,
  parseRecipe,
  type Recipe,
  SETTINGS,
  settingAt,
  settingLabel,
  withSetting,
} from '@/core/recipe';
import { type FieldOwner, fieldAt, type SceneDocument } from '@/core/scene';

/** Something that a ladder can step: a setting of the recipe, or a field of the scene. */
export interface Steppable {
  /** Stable, for choosing. */
  key: string;
  label: string;
  part: 'Recipe' | 'Light' | 'Material' | 'Camera' | 'Fog';
  owner: FieldOwner | null;
  path: string;
  now: number | null;
  unit: string;
  whole: boolean;
}

const MATERIAL: [string, string, string][] = [
  ['specular_roughness', 'roughness', ''],
  ['specular_ior', 'refractive index', ''],
  ['transmission_depth', 'absorption distance', 'm'],
  ['base_weight', 'base weight', ''],
  ['emission_luminance', 'luminance', 'nits'],
];
const LIGHT: [string, string, string][] = [
  ['stops', 'strength', 'stops'],
  ['radius', 'radius', 'm'],
  ['width', 'width', 'm'],
  ['height', 'height', 'm'],
  ['spreadDegrees', 'spread', '°'],
  ['angleDegrees', 'angle', '°'],
  ['coneDegrees', 'cone', '°'],
];
const CAMERA: [string, string, string][] = [
  ['exposure.stops', 'exposure', 'stops'],
  ['fStop', 'f-stop', ''],
  ['focusMetres', 'focus distance', 'm'],
];
const FOG: [string, string, string][] = [
  ['density', 'density', '1/m'],
  ['anisotropy', 'anisotropy', ''],
];

/** All that a ladder can step in a shot. */
export function steppables(recipe: Recipe, document: SceneDocument, camera: string): Steppable[] {
  const out: Steppable[] = [];
  const setting = (path: string, unit: string, whole: boolean) => {
    const now = settingAt(recipe, path);
    out.push({
      key: path,
      label: settingLabel(path),
      part: 'Recipe',
      owner: null,
      path,
      now: typeof now === 'number' ? now : null,
      unit,
      whole,
    });
  };
  for (const path of LADDER_SETTINGS) setting(path, SETTINGS[path].unit, SETTINGS[path].ladder === 'counts');
  const field = (part: Steppable['part'], owner: FieldOwner, [path, words, unit]: [string, string, string]) => {
    const now = fieldAt(document, owner, path);
    if (typeof now !== 'number') return;
    const label = `${owner.name}: ${words}`;
    out.push({ key: `${owner.kind}/${owner.name}/${path}`, label, part, owner, path, now, unit, whole: false });
  };
  for (const l of document.lights) for (const f of LIGHT) field('Light', { kind: 'light', name: l.name }, f);
  const used = new Set(document.objects.map((o) => o.material));
  for (const m of document.materials)
    if (used.has(m.name)) for (const f of MATERIAL) field('Material', { kind: 'material', name: m.name }, f);
  for (const f of CAMERA) field('Camera', { kind: 'camera', name: camera }, f);
  for (const { name } of document.fogs) for (const f of FOG) field('Fog', { kind: 'fog', name }, f);
  return out;
}

const tidy = (v: number) => Number(v.toPrecision(3));

/** Values that are worth a look, about what there is now: counts in doublings, the rest in even steps. */
export function proposedSteps({ now, whole, unit }: Steppable): number[] {
  if (unit === 'stops') return [-2, -1, 0, 1, 2].map((d) => (now ?? 0) + d);
  if (now === null || now === 0) return whole ? [1, 2, 4, 8] : [0, 0.1, 0.2, 0.4];
  if (!whole) return [0.25, 0.5, 1, 2].map((k) => tidy(now * k));
  const low = Math.max(1, 2 ** Math.floor(Math.log2(now) - 2));
  return [...new Set([1, 2, 4, 8].map((k) => low * k).concat(now))].sort((a, b) => a - b);
}

/** Values as typed, apart by commas or blanks. Throws in words. */
export function parseSteps(text: string, most: number): number[] {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  const values = parts.map((p) => {
    const v = Number(p);
    if (!Number.isFinite(v)) throw new Error(`“${p}” is not a number`);
    return v;
  });
  if (values.length < 2) throw new Error('two values at least');
  if (values.length > most) throw new Error(`${most} values at most`);
  if (new Set(values).size < values.length) throw new Error('a value stands there twice');
  return values;
}

/** The recipe with a setting at a step. Least camera samples give way. Throws in words where it cannot be. */
export function recipeAt(recipe: Recipe, path: string, value: number): Recipe {
  const stepped = withSetting(recipe, path, value);
  if (path !== 'sampling.cameraMax') return parseRecipe(stepped);
  return parseRecipe(withSetting(stepped, 'sampling.cameraMin', Math.min(value, recipe.sampling.cameraMin)));
}
