import { exposureScale } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import { isAnimated, type Light, type Material, resolveRules, type SceneDocument } from '@/core/scene';
import type { Fix } from './fix';
import type { Survey } from './survey';

/** Something that may be wrong, and what would show it. */
export interface Suspect {
  /** Which cause it is, for tests and icons. */
  code: string;
  /** What is wrong, in words. */
  words: string;
  fix: Fix | null;
  /** Objects and lights it is about. */
  about: string[];
  /** Kept whatever its fix is measured to change. */
  certain?: boolean;
}

/** What the picture is like as it stands. */
export interface Standing {
  document: SceneDocument;
  recipe: Recipe;
  camera: SceneDocument['cameras'][number];
  survey: Survey;
  /** Mean of log₂ of luminance × exposure over pixels that hold light; null when none does. */
  logMean: number | null;
  /** Share of the light beyond limits, as a multiple of the light in the picture, by kind of limit. */
  lost: Record<string, number>;
}

const GREY = Math.log2(0.18);
const at = (kind: 'light' | 'object' | 'material' | 'camera', name: string) => ({ kind, name });
const round = (v: number) => Math.round(v * 10) / 10;

const strength = (l: Light) => (l.on ? l.power * 2 ** l.stops * Math.max(...l.color) : 0);

function emissive(document: SceneDocument): Material[] {
  const used = new Set(document.objects.map((o) => o.material));
  return document.materials.filter((m) => m.emission_luminance > 0 && used.has(m.name));
}

function lightSuspects({ document, recipe }: Standing): Suspect[] {
  const out: Suspect[] = [];
  const { lights, environment } = document;
  const glowing = emissive(document);
  if (lights.length === 0 && !environment && glowing.length === 0) {
    out.push({
      code: 'no-light',
      words: 'There is no light in the scene.',
      fix: { label: 'Add a light', add: 'light' },
      about: [],
      certain: true,
    });
  }
  if (!environment)
    out.push({
      code: 'no-surroundings',
      words: 'Nothing surrounds the scene: there is nothing for mirrors and glass to show, and no sky to give light.',
      fix: { label: 'Add a sky', add: 'sky' },
      about: [],
    });
  for (const l of lights) {
    if (!l.on)
      out.push({
        code: 'light-off',
        words: `${l.name} is switched off.`,
        fix: { label: 'Switch it on', fields: [{ owner: at('light', l.name), path: 'on', value: true }] },
        about: [l.name],
      });
    else if (strength(l) === 0 || l.stops < -9)
      out.push({
        code: 'light-weak',
        words: `${l.name} gives no light to speak of: power ${l.power}, ${l.stops} stops.`,
        fix: {
          label: 'Give it strength',
          fields: [
            { owner: at('light', l.name), path: 'stops', value: 0 },
            { owner: at('light', l.name), path: 'power', value: l.power > 0 ? l.power : 10 },
            { owner: at('light', l.name), path: 'color', value: [1, 1, 1] },
          ],
        },
        about: [l.name],
      });
    if (l.include !== null || l.exclude.length > 0)
      out.push({
        code: 'light-excluded',
        words: `${l.name} ${l.include !== null ? `lights only ${l.include.join(', ') || 'nothing'}` : `does not light ${l.exclude.join(', ')}`}.`,
        fix: {
          label: 'Let it light everything',
          fields: [
            { owner: at('light', l.name), path: 'include', value: null },
            { owner: at('light', l.name), path: 'exclude', value: [] },
          ],
        },
        about: [l.name],
      });
    if (Math.max(l.gains.diffuse, l.gains.reflection, l.gains.transmission) === 0)
      out.push({
        code: 'light-gains',
        words: `${l.name} has no gain on surfaces.`,
        fix: {
          label: 'Gains to 1',
          fields: ['diffuse', 'reflection', 'transmission'].map((r) => ({
            owner: at('light', l.name),
            path: `gains.${r}`,
            value: 1,
          })),
        },
        about: [l.name],
      });
    if (l.bounces !== null && l.bounces < recipe.rayDepth.all)
      out.push({
        code: 'light-bounces',
        words: `${l.name} gives light up to ${l.bounces} bounces only.`,
        fix: { label: 'As many as the recipe', fields: [{ owner: at('light', l.name), path: 'bounces', value: null }] },
        about: [l.name],
      });
  }
  if (environment && !environment.on)
    out.push({
      code: 'light-off',
      words: 'The surroundings are switched off.',
      fix: {
        label: 'Switch them on',
        fields: [{ owner: { kind: 'environment', name: '' }, path: 'on', value: true }],
      },
      about: ['environment'],
    });
  if (environment?.kind === 'sky') {
    if (!environment.sun.on)
      out.push({
        code: 'light-off',
        words: 'The sun is switched off.',
        fix: {
          label: 'Switch it on',
          fields: [{ owner: { kind: 'environment', name: '' }, path: 'sun.on', value: true }],
        },
        about: ['sun'],
      });
    if (environment.sun.heightDegrees < 0)
      out.push({
        code: 'sun-down',
        words: `The sun is ${Math.round(-environment.sun.heightDegrees)}° below the horizon.`,
        fix: {
          label: 'Raise it to 20°',
          fields: [{ owner: { kind: 'environment', name: '' }, path: 'sun.heightDegrees', value: 20 }],
        },
        about: ['sun'],
      });
  }
  for (const m of glowing)
    if (!m.light.on)
      out.push({
        code: 'light-off',
        words: `The glow of ${m.name} is switched off.`,
        fix: { label: 'Switch it on', fields: [{ owner: at('material', m.name), path: 'light.on', value: true }] },
        about: [m.name],
      });
  return out;
}

function claySuspects({ document, recipe }: Standing): Suspect[] {
  const { clay } = recipe;
  if (!clay.on) return [];
  const out: Suspect[] = [];
  if (!clay.keepEmission && emissive(document).length > 0)
    out.push({
      code: 'clay-hides-glow',
      words: `Clay covers what glows: ${emissive(document)
        .map((m) => m.name)
        .join(', ')}.`,
      fix: { label: 'Keep what glows', settings: [{ path: 'clay.keepEmission', value: true }] },
      about: emissive(document).map((m) => m.name),
    });
  const glass = document.materials.filter(
    (m) => m.transmission_weight > 0.5 && document.objects.some((o) => o.material === m.name),
  );
  if (!clay.keepGlass && glass.length > 0)
    out.push({
      code: 'clay-hides-glass',
      words: `Clay makes glass opaque: ${glass.map((m) => m.name).join(', ')}.`,
      fix: { label: 'Keep glass', settings: [{ path: 'clay.keepGlass', value: true }] },
      about: glass.map((m) => m.name),
    });
  return out;
}

function blockSuspects({ document, survey }: Standing): Suspect[] {
  const out: Suspect[] = [];
  const rules = resolveRules(document);
  for (const [name, s] of survey.lights) {
    const light = document.lights.find((l) => l.name === name)!;
    if (strength(light) === 0) continue;
    if (s.before < 0.02 && 'facing' in light && light.kind !== 'distant') {
      const seen = survey.sights.filter((p) => p.object !== null);
      if (seen.length === 0) continue;
      const middle = [0, 1, 2].map((k) => seen.reduce((sum, p) => sum + p.position[k], 0) / seen.length);
      out.push({
        code: 'light-faces-away',
        words: `${name} faces away from all that is seen.`,
        fix: {
          label: 'Aim it at the picture',
          fields: [
            {
              owner: at('light', name),
              path: 'facing',
              value: middle.map((c, k) => c - (light as { position: number[] }).position[k]),
            },
          ],
        },
        about: [name],
      });
    }
    for (const [blocker, share] of [...s.blockers].sort((a, b) => b[1] - a[1]).slice(0, 2)) {
      const i = document.objects.findIndex((o) => o.name === blocker);
      const material = document.materials.find((m) => m.name === document.objects[i].material);
      const clear = material && (material.transmission_straight_shadows || material.geometry_thin_walled);
      if (share < 0.25 || rules[i].hiddenFrom.includes('shadow') || (clear && material.transmission_weight > 0.5))
        continue;
      out.push({
        code: 'light-blocked',
        words: `${blocker} stands between ${name} and ${Math.round(share * 100)} % of what it would light.`,
        fix: {
          label: 'Let shadow rays past it',
          fields: [{ owner: at('object', blocker), path: 'rules.seenBy.shadow', value: false }],
        },
        about: [blocker, name],
      });
    }
  }
  return out;
}

function depthSuspects({ recipe, lost }: Standing): Suspect[] {
  const out: Suspect[] = [];
  for (const [kind, share] of Object.entries(lost)) {
    if (share < 0.05 || kind === 'object' || kind === 'reach') continue;
    const path = `rayDepth.${kind}`;
    const now = recipe.rayDepth[kind as 'all'];
    const to = kind === 'transmission' || kind === 'all' ? Math.max(16, now * 2) : Math.max(4, now * 2);
    out.push({
      code: 'ray-depth',
      words: `${kind === 'all' ? 'Ray depth' : `Ray depth for ${kind}`} ${now} keeps away ${Math.round(share * 100)} % as much light as there is.`,
      fix: {
        label: `Raise it to ${to}`,
        settings: [
          { path, value: to },
          // The limit on all rays hides those that would stop the same path next.
          ...(kind === 'all' && recipe.rayDepth.transmission <= now
            ? [{ path: 'rayDepth.transmission', value: to }]
            : []),
          ...(kind !== 'all' && recipe.rayDepth.all < to ? [{ path: 'rayDepth.all', value: to }] : []),
        ],
      },
      about: [],
    });
  }
  if (lost.reach > 0.05)
    out.push({
      code: 'reach',
      words: `Rays end after ${recipe.rayDepth.reachMetres} m, which keeps away ${Math.round(lost.reach * 100)} % as much light as there is.`,
      fix: { label: 'No end', settings: [{ path: 'rayDepth.reachMetres', value: null }] },
      about: [],
    });
  return out;
}

function cameraSuspects({ document, camera, survey, logMean }: Standing): Suspect[] {
  const out: Suspect[] = [];
  const owner = at('camera', camera.name);
  const { sights, unclipped } = survey;
  const met = (list: typeof sights) => list.filter((s) => s.object !== null);
  const inside = new Map<string, { n: number; metres: number[] }>();
  for (const s of met(sights)) {
    if (s.front) continue;
    const e = inside.get(s.object!) ?? { n: 0, metres: [] };
    e.n++;
    e.metres.push(s.metres);
    inside.set(s.object!, e);
  }
  for (const [name, { n, metres }] of inside) {
    const object = document.objects.find((o) => o.name === name)!;
    const material = document.materials.find((m) => m.name === object.material);
    if (n < 0.7 * sights.length || (material && material.transmission_weight > 0.5)) continue;
    const deepest = Math.max(...metres);
    out.push({
      code: 'camera-inside',
      words: `The camera stands inside ${name}.`,
      fix: {
        label: 'Look past it',
        fields: [
          {
            owner,
            path: 'clipNear',
            value: Number((camera.clipNear + (deepest - camera.clipNear) * 1.02).toPrecision(4)),
          },
        ],
      },
      about: [name],
    });
  }
  if (met(unclipped).length > 0.2 * sights.length && met(sights).length < 0.5 * met(unclipped).length)
    out.push({
      code: 'camera-clipped',
      words: `The clip planes (${camera.clipNear} m to ${camera.clipFar ?? '∞'}) cut away most of what is there.`,
      fix: {
        label: 'Open them',
        fields: [
          { owner, path: 'clipNear', value: 0 },
          { owner, path: 'clipFar', value: null },
        ],
      },
      about: [],
      certain: true,
    });
  if (logMean !== null) {
    const off = round(GREY - logMean);
    if (Math.abs(off) >= 1)
      out.push({
        code: 'exposure',
        words: `The camera exposes ${Math.abs(off)} stops too ${off > 0 ? 'dark' : 'bright'} for what is there.`,
        fix: {
          label: `${off > 0 ? '+' : '−'}${Math.abs(off)} stops`,
          fields: [{ owner, path: 'exposure.stops', value: round(camera.exposure.stops + off) }],
        },
        about: [],
      });
  }
  return out;
}

function surfaceSuspects({ document, survey, camera, recipe }: Standing): Suspect[] {
  const out: Suspect[] = [];
  const seen = new Map<string, { n: number; backs: number }>();
  for (const s of survey.sights) {
    if (s.object === null) continue;
    const e = seen.get(s.object) ?? { n: 0, backs: 0 };
    e.n++;
    if (!s.front) e.backs++;
    seen.set(s.object, e);
  }
  const missing = document.objects.filter((o) => !document.materials.some((m) => m.name === o.material));
  if (missing.length > 0)
    out.push({
      code: 'material-missing',
      words: `${missing.map((o) => o.name).join(', ')}: no material is there.`,
      fix: { label: 'Give plain grey', grey: missing.map((o) => o.name) },
      about: missing.map((o) => o.name),
      certain: true,
    });
  for (const m of emissive(document)) {
    if (m.emission_double_sided) continue;
    const objects = document.objects.filter((o) => o.material === m.name);
    const away = objects.filter((o) => (seen.get(o.name)?.backs ?? 0) > 0.8 * (seen.get(o.name)?.n ?? Infinity));
    if (away.length > 0)
      out.push({
        code: 'glow-faces-away',
        words: `${away.map((o) => o.name).join(', ')} shows its back, which does not glow.`,
        fix: {
          label: 'Let both sides glow',
          fields: [{ owner: at('material', m.name), path: 'emission_double_sided', value: true }],
        },
        about: away.map((o) => o.name),
      });
  }
  const seenMaterials = new Set(document.objects.filter((o) => seen.has(o.name)).map((o) => o.material));
  if (!recipe.clay.on)
    for (const m of document.materials) {
      if (!seenMaterials.has(m.name) || m.transmission_weight > 0.5 || m.emission_luminance > 0) continue;
      if (m.textures.some((t) => t.input === 'base_color')) continue;
      const top = Math.max(...m.base_color) * m.base_weight;
      const to = top > 0.95 ? 0.85 : top < 0.015 ? 0.05 : null;
      if (to === null || (m.base_metalness > 0.5 && top > 0.95)) continue;
      out.push({
        code: 'albedo',
        words: `${m.name} has an albedo of ${round(top * 100) / 100}: ${top > 0.9 ? 'no real surface is that bright; light never dies in the scene' : 'darker than soot'}.`,
        fix: {
          label: `Bring it to ${to}`,
          fields: [
            {
              owner: at('material', m.name),
              path: 'base_color',
              value: top > 0 ? m.base_color.map((c) => (c * to) / Math.max(...m.base_color)) : [to, to, to],
            },
            { owner: at('material', m.name), path: 'base_weight', value: 1 },
          ],
        },
        about: [m.name],
      });
    }
  if (
    recipe.camera.motionBlur &&
    !isAnimated(document) &&
    !camera.motion &&
    document.frames.last > document.frames.first
  )
    out.push({
      code: 'nothing-moves',
      words: 'Motion blur is on, and nothing in the scene moves.',
      fix: { label: 'Switch it off', settings: [{ path: 'camera.motionBlur', value: false }] },
      about: [],
      certain: true,
    });
  return out;
}

/** Everything that may be wrong with a picture as it stands; each is then tried. */
export function suspects(standing: Standing): Suspect[] {
  return [
    ...lightSuspects(standing),
    ...claySuspects(standing),
    ...blockSuspects(standing),
    ...depthSuspects(standing),
    ...cameraSuspects(standing),
    ...surfaceSuspects(standing),
  ];
}

/** Parts of display white below which darkness counts no further. */
const DARKEST = 2 ** -7;

/** Mean log₂ luminance of a picture at the camera's exposure, over pixels that hold light. */
export function logMeanOf(
  luminances: Float32Array,
  exposure: SceneDocument['cameras'][number]['exposure'],
): number | null {
  const scale = exposureScale(exposure);
  let sum = 0;
  let n = 0;
  for (const y of luminances) {
    if (!(y * scale > 1e-7)) continue;
    // What is far below grey weighs no more than what is just black: a low-key picture is no fault.
    sum += Math.log2(Math.max(DARKEST, y * scale));
    n++;
  }
  return n < luminances.length * 0.02 ? null : sum / n;
}
