import { kelvinToRgb } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import {
  type Camera,
  glowsOf,
  groupNumber,
  type Light,
  type LightControls,
  lightGroups,
  partOf,
  type Scene,
  type SceneDocument,
} from '@/core/scene';

type Rgb = [number, number, number];

/** What the live picture is to show. */
export interface Wanted {
  scene: Scene;
  recipe: Recipe;
  camera: Camera;
  frame: number;
}

/** Factors by which a film's light groups show another strength or colour of their lights. */
export type Tints = Map<string, Rgb>;

const NO_STRENGTH = { on: true, power: 1, stops: 0, color: [1, 1, 1], kelvin: 0 };

function lightColor(l: Light): Rgb {
  const tint = l.kelvin ? kelvinToRgb(l.kelvin) : [1, 1, 1];
  return l.color.map((c, k) => c * tint[k] * l.power * 2 ** l.stops) as Rgb;
}

const BLACK: Rgb = [0, 0, 0];
const lit = (on: boolean, rgb: Rgb): Rgb => (on ? rgb : BLACK);
const tinted = ({ stops, tint }: { stops: number; tint: Rgb }, scale = 1): Rgb =>
  tint.map((c) => c * scale * 2 ** stops) as Rgb;
const PLAIN = { on: true, stops: 0, tint: [1, 1, 1] as Rgb };

type Gains = LightControls['gains'];
/** Strengths of all sources of light, by the groups of films, and the document without them. What is switched off has none. */
function parted(d: SceneDocument): { strengths: { group: string; key: string; rgb: Rgb }[]; rest: unknown } {
  const strengths: { group: string; key: string; rgb: Rgb }[] = [];
  const groups = lightGroups(d);
  /** Takes a source's strength in, in each part that its group is kept in; returns its gains without those. */
  const take = (name: string, key: string, rgb: Rgb, gains: Gains): Gains => {
    const kept = groups[groupNumber(groups, name)];
    strengths.push({ group: kept, key, rgb });
    const seen = `${partOf(kept).group}.seen`;
    if (partOf(kept).part === null || !groups.includes(seen)) return gains;
    const rest = groups.filter((g) => partOf(g).group === partOf(kept).group && g !== kept && g !== seen);
    for (const g of rest) strengths.push({ group: g, key: `${key} in ${g}`, rgb });
    strengths.push({ group: seen, key: `${key} seen`, rgb: rgb.map((v) => v * gains.seen) as Rgb });
    return { ...gains, seen: 1 };
  };
  const lights = d.lights.map((l) => {
    const gains = take(l.group, `light ${l.name}`, lit(l.on, lightColor(l)), l.gains);
    return { ...NO_STRENGTH, ...l, gains, ...NO_STRENGTH };
  });
  let { environment } = d;
  if (environment) {
    const scale = environment.kind === 'picture' ? environment.scale : 1;
    const { group, on } = environment;
    const gains = take(group, 'environment', lit(on, tinted(environment, scale)), environment.gains);
    if (environment.kind === 'sky') {
      const { sun } = environment;
      const own = take(sun.group, 'sun', lit(sun.on, tinted(sun)), sun.gains);
      environment = { ...environment, ...PLAIN, gains, sun: { ...sun, ...PLAIN, gains: own } };
    } else if (environment.kind === 'picture') environment = { ...environment, ...PLAIN, gains, scale: 1 };
    else environment = { ...environment, ...PLAIN, gains };
  }
  const glows = glowsOf(d);
  const materials = d.materials.map((m) => {
    if (m.emission_luminance === 0) return m;
    const rgb = lit(m.light.on, m.emission_color.map((c) => c * m.emission_luminance) as Rgb);
    const own = new Set([m.light_group, ...glows.filter((g) => g.material === m.name).map((g) => g.group)]);
    let gains = m.light.gains;
    for (const group of own) gains = { ...gains, ...take(group, `material ${m.name} in ${group}`, rgb, m.light.gains) };
    return { ...m, emission_luminance: 1, emission_color: [1, 1, 1], light: { ...m.light, gains, on: true } };
  });
  const rest = {
    ...d,
    look: null,
    rigs: null,
    // What is only looked at is not traced.
    plates: null,
    contents: d.contents.filter((c) => c.use === 'texture' || c.use === 'environment'),
    environment,
    lights,
    materials,
    // Exposure is no light: it shows in the display alone.
    cameras: d.cameras.map((c) => ({ ...c, exposure: null })),
  };
  return { strengths, rest };
}

/**
 * How a film made for `made` shows what is `wanted` without tracing: light is linear in the strength of its sources.
 * Null when anything else differs, or when lights that share a group change apart.
 */
export function retint(made: Wanted, wanted: Wanted): Tints | null {
  if (made.frame !== wanted.frame) return null;
  if (made.recipe !== wanted.recipe && JSON.stringify(made.recipe) !== JSON.stringify(wanted.recipe)) return null;
  if (wanted.recipe.clay.on && wanted.recipe.clay.occlusion) return null;
  const bare = (w: Wanted) => JSON.stringify({ ...w.camera, exposure: null });
  if (bare(made) !== bare(wanted)) return null;
  // Cells stop by noise on the display.
  if (
    wanted.recipe.sampling.stopNoise > 0 &&
    JSON.stringify([made.camera.exposure, made.scene.document.look]) !==
      JSON.stringify([wanted.camera.exposure, wanted.scene.document.look])
  )
    return null;
  const [a, b] = [parted(made.scene.document), parted(wanted.scene.document)];
  if (JSON.stringify(a.rest) !== JSON.stringify(b.rest)) return null;
  const tints: Tints = new Map();
  for (const s of b.strengths) {
    const old = a.strengths.find((o) => o.key === s.key)!;
    const factor = s.rgb.map((v, k) => (old.rgb[k] === 0 ? (v === 0 ? 1 : Number.NaN) : v / old.rgb[k])) as Rgb;
    if (factor.some((f) => !Number.isFinite(f))) return null;
    const known = tints.get(s.group);
    if (known?.some((f, k) => Math.abs(f - factor[k]) > 1e-6 * Math.abs(f))) return null;
    tints.set(s.group, factor);
  }
  const changed = [...tints].filter(([, f]) => f.some((c) => Math.abs(c - 1) > 1e-9));
  if (changed.length > 0 && !wanted.recipe.film.groups) return null;
  return new Map(changed);
}
