import { exposureScale, kelvinToRgb } from '@/core/image';
import { isAnimated, type SceneDocument } from '@/core/scene';
import { blockSuspects, claySuspects, lightSuspects } from './light-suspects';
import { at, emissive, type Standing, type Suspect } from './standing';

const GREY = Math.log2(0.18);
const round = (v: number) => Math.round(v * 10) / 10;

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

/** Temperature whose light has this ratio of red to blue. */
function kelvinOf(redOverBlue: number): number {
  let [low, high] = [2000, 12000];
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2;
    const [r, , b] = kelvinToRgb(middle);
    if (r / Math.max(1e-6, b) > redOverBlue) low = middle;
    else high = middle;
  }
  return Math.round((low + high) / 100) * 50;
}

/** Surfaces that are white and do not look it, because of the light they stand in. */
function colorSuspects({ document, survey, colors, recipe }: Standing): Suspect[] {
  if (recipe.clay.on || document.look.whiteKelvin !== null) return [];
  const out: Suspect[] = [];
  for (const m of document.materials) {
    const neutral = Math.max(...m.base_color) - Math.min(...m.base_color) < 0.04 && Math.min(...m.base_color) > 0.35;
    if (!neutral || m.base_metalness > 0 || m.transmission_weight > 0 || m.textures.length > 0) continue;
    const objects = new Set(document.objects.filter((o) => o.material === m.name).map((o) => o.name));
    const seen = survey.sights.flatMap((s, i) => (s.object !== null && objects.has(s.object) ? [colors[i]] : []));
    if (seen.length < 4) continue;
    const [r, g, b] = [0, 1, 2].map((k) => seen.reduce((sum, c) => sum + c[k], 0) / seen.length);
    if (!(Math.max(r, g, b) > 1e-6) || Math.max(r, g, b) / Math.max(1e-9, Math.min(r, g, b)) < 1.6) continue;
    const hue = r > b ? 'warm' : 'cold';
    out.push({
      code: 'colored-white',
      words: `${m.name} is white and reads ${hue} (${[r, g, b].map((c) => (c / Math.max(r, g, b)).toFixed(2)).join(' ')}): so is the light it stands in.`,
      fix: {
        label: `White at ${kelvinOf(r / Math.max(1e-9, b))} K`,
        fields: [
          { owner: { kind: 'look', name: 'look' }, path: 'whiteKelvin', value: kelvinOf(r / Math.max(1e-9, b)) },
        ],
      },
      about: [m.name],
      certain: true,
    });
    break;
  }
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
    ...colorSuspects(standing),
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
