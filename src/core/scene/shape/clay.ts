import { lightGroups } from '../document/light-groups';
import { type Material, materialSchema } from '../document/material';
import { resolveRules } from '../document/rules';
import type { Scene } from './scene';

/** How a scene is shown in clay. */
export interface Clay {
  /** Albedo of the clay. */
  grey: number;
  /** Objects, sets and materials by name that stay as they are. */
  except: string[];
  /** Whether glowing surfaces and glass stay as they are. */
  keepEmission: boolean;
  keepGlass: boolean;
  /** Shaded by how much of the hemisphere is open instead of by the lights. */
  occlusion: boolean;
  /** Whether the camera sees the back faces of what is clay; without them one looks into closed rooms. */
  backs: boolean;
}

/**
 * The scene with its surfaces in grey matt clay. Cut-outs stay. `white` is the radiance in nits that shows as display
 * white, in which occlusion is drawn: an open surface reads grey · white. Throws for an exception by an unknown name.
 */
export function clayScene(scene: Scene, clay: Clay, white: number): Scene {
  const { document } = scene;
  const known = new Set([
    ...document.objects.map((o) => o.name),
    ...document.materials.map((m) => m.name),
    ...Object.keys(document.sets),
  ]);
  const stray = clay.except.find((n) => !known.has(n));
  if (stray !== undefined) throw new Error(`clay.except: neither object, set nor material is named ${stray}`);
  const except = new Set(clay.except.flatMap((n) => [n, ...(Object.hasOwn(document.sets, n) ? document.sets[n] : [])]));
  const materials = new Map(document.materials.map((m) => [m.name, m]));
  const keeps = (m: Material) =>
    except.has(m.name) ||
    (clay.keepEmission && m.emission_luminance > 0) ||
    (clay.keepGlass && m.transmission_weight > 0.5);
  const clays = new Map<string, Material>();
  const clayOf = (m: Material): string => {
    const cut = m.textures.filter((t) => t.input === 'geometry_opacity');
    let name = m.geometry_opacity < 1 || cut.length > 0 ? `clay for ${m.name}` : 'clay';
    while (materials.has(name)) name += ' ';
    const { grey } = clay;
    clays.set(
      name,
      materialSchema.parse({
        name,
        base_color: [grey, grey, grey],
        specular_weight: 0,
        geometry_opacity: m.geometry_opacity,
        textures: cut,
      }),
    );
    return name;
  };
  const rules = resolveRules(document);
  const objects = document.objects.map((o, i) => {
    const material = materials.get(o.material);
    if (!material || except.has(o.name) || document.fogs.some((f) => f.within === o.name) || keeps(material)) return o;
    const backs = clay.backs && rules[i].backs;
    return { ...o, material: clayOf(material), rules: { ...o.rules, secondaryMaterial: null, backs } };
  });
  const groups = lightGroups(document);
  const lit = clay.occlusion
    ? {
        lights: [],
        portals: [],
        environment: {
          kind: 'gradient' as const,
          zenith: [white, white, white] as [number, number, number],
          horizon: [white, white, white] as [number, number, number],
          ground: [white, white, white] as [number, number, number],
          group: document.environment?.group ?? groups[0],
          on: true,
          stops: 0,
          tint: [1, 1, 1] as [number, number, number],
          gains: {
            seen: document.environment?.gains.seen ?? 1,
            mirrors: 1,
            diffuse: 1,
            reflection: 1,
            transmission: 1,
            fog: 1,
          },
          samples: null,
          bounces: 0,
          include: null,
          exclude: [],
        },
        fog: null,
      }
    : {};
  return {
    ...scene,
    document: { ...document, ...lit, objects, materials: [...document.materials, ...clays.values()], groups },
  };
}
