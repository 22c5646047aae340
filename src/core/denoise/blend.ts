import { type FilmLayers, LAYER, type Layer, layerInfo } from '../film';
import { reconcile } from './reconcile';

/** How much of what denoising made is taken, from 0 to 1: of everything, and of light groups that have a strength of their own. */
export interface Strengths {
  all: number;
  groups: Readonly<Record<string, number>>;
}

const FAMILIES = ['class', 'bounce'] as const;

/** Whether every group has the same strength, so that each layer can be blended by itself. */
const isEven = ({ all, groups }: Strengths) => Object.values(groups).every((s) => s === all);

/** Groups with halves that a denoised film has. */
const groupsOf = (kept: readonly string[]) =>
  kept.map(layerInfo).flatMap((i) => (i.family === 'group' ? [i.group!] : []));

/**
 * Layers of which the plain and the denoised ones are needed to blend one: itself, and where groups have strengths of their
 * own also what it must sum up to or from. `kept` are the layers that the denoised film has; none where `name` is not one.
 */
export function neededToBlend(name: string, kept: readonly string[], strengths: Strengths): string[] {
  if (!kept.includes(name)) return [];
  const { family } = layerInfo(name);
  const groups = groupsOf(kept);
  if (isEven(strengths) || groups.length === 0) return [name];
  const parts = groups.map(LAYER.group);
  if (name === 'beauty') return parts;
  if (family === 'half') return groups.map((g) => LAYER.half(name === LAYER.half('a') ? 'a' : 'b', g));
  if (family === 'class' || family === 'bounce')
    return [...kept.filter((n) => layerInfo(n).family === family), ...parts];
  return [name];
}

const mix = (plain: Layer, denoised: Layer, s: number): Float32Array[] =>
  plain.planes.map((p, c) => {
    const q = denoised.planes[c];
    if (s === 0) return p as Float32Array;
    const out = new Float32Array(p.length);
    for (let i = 0; i < p.length; i++) out[i] = p[i] * (1 - s) + q[i] * s;
    return out;
  });

function added(of: readonly (readonly Float32Array[])[]): Float32Array[] {
  const out = of[0].map((p) => p.slice());
  for (const planes of of.slice(1))
    planes.forEach((p, c) => {
      for (let i = 0; i < p.length; i++) out[c][i] += p[i];
    });
  return out;
}

/**
 * A layer at some strengths, in linear light: the plain and the denoised one blended. Families still sum to the beauty,
 * whatever the groups' own strengths. Both films hold what `neededToBlend` names.
 */
export function blendLayer(
  name: string,
  kept: readonly string[],
  plain: FilmLayers,
  denoised: FilmLayers,
  strengths: Strengths,
): Layer {
  const strengthOf = (group: string | null) => (group === null ? undefined : strengths.groups[group]) ?? strengths.all;
  const own = (n: string) => mix(plain.layers.get(n)!, denoised.layers.get(n)!, strengthOf(layerInfo(n).group));
  const needed = neededToBlend(name, kept, strengths);
  const info = layerInfo(name);
  const like = (planes: Float32Array[]): Layer => {
    const { channels, kind } = plain.layers.get(needed[0])!;
    return { name, channels, kind, planes };
  };
  if (needed.length === 1 && needed[0] === name) return like(own(name));
  if (!FAMILIES.some((f) => f === info.family)) return like(added(needed.map(own)));
  const family = needed.filter((n) => layerInfo(n).family === info.family);
  const whole = added(needed.filter((n) => layerInfo(n).family === 'group').map(own));
  const parts = family.map(own);
  whole.forEach((w, c) => {
    const taken = family.map((n) => {
      const [p, q] = [plain.layers.get(n)!.planes[c], denoised.layers.get(n)!.planes[c]];
      return p.map((v, i) => (v - q[i]) ** 2);
    });
    reconcile(
      parts.map((p) => p[c]),
      taken,
      w,
    );
  });
  return like(parts[family.indexOf(name)]);
}
