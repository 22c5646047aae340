import { type Light, resolveRules } from '@/core/scene';
import { at, emissive, type Standing, type Suspect } from './standing';

const strength = (l: Light) => (l.on ? l.power * 2 ** l.stops * Math.max(...l.color) : 0);

/** Lights that are not there, off, weak, or kept to some things. */
export function lightSuspects({ document, recipe }: Standing): Suspect[] {
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

/** What clay hides. */
export function claySuspects({ document, recipe }: Standing): Suspect[] {
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

/** What stands in the way of lights, and lights that face away. */
export function blockSuspects({ document, survey }: Standing): Suspect[] {
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
