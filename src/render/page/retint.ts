import { kelvinToRgb } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import { type Camera, glowsOf, type Light, type Scene, type SceneDocument } from '@/core/scene';

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

const NO_STRENGTH = { power: 1, stops: 0, color: [1, 1, 1], kelvin: 0 };

function lightColor(l: Light): Rgb {
  const tint = l.kelvin ? kelvinToRgb(l.kelvin) : [1, 1, 1];
  return l.color.map((c, k) => c * tint[k] * l.power * 2 ** l.stops) as Rgb;
}

/** Strengths of all sources of light, by group, and the document without them. */
function parted(d: SceneDocument): { strengths: { group: string; key: string; rgb: Rgb }[]; rest: unknown } {
  const strengths: { group: string; key: string; rgb: Rgb }[] = d.lights.map((l) => ({
    group: l.group,
    key: `light ${l.name}`,
    rgb: lightColor(l),
  }));
  const even = (stops: number): Rgb => [2 ** stops, 2 ** stops, 2 ** stops];
  let { environment } = d;
  if (environment?.kind === 'sky') {
    strengths.push({ group: environment.group, key: 'environment', rgb: even(environment.stops) });
    strengths.push({ group: environment.sun.group, key: 'sun', rgb: even(environment.sun.stops) });
    environment = { ...environment, stops: 0, sun: { ...environment.sun, stops: 0 } };
  } else if (environment?.kind === 'picture') {
    const s = environment.scale;
    strengths.push({ group: environment.group, key: 'environment', rgb: [s, s, s] });
    environment = { ...environment, scale: 1 };
  }
  const glows = glowsOf(d);
  for (const m of d.materials) {
    if (m.emission_luminance === 0) continue;
    const rgb = m.emission_color.map((c) => c * m.emission_luminance) as Rgb;
    const groups = new Set([m.light_group, ...glows.filter((g) => g.material === m.name).map((g) => g.group)]);
    for (const group of groups) strengths.push({ group, key: `material ${m.name} in ${group}`, rgb });
  }
  const rest = {
    ...d,
    look: null,
    rigs: null,
    environment,
    lights: d.lights.map((l) => ({ ...NO_STRENGTH, ...l, ...NO_STRENGTH })),
    materials: d.materials.map((m) =>
      m.emission_luminance > 0 ? { ...m, emission_luminance: 1, emission_color: [1, 1, 1] } : m,
    ),
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
