import { z } from 'zod';
import { finite, name } from './terms';

/** Kinds of rays that can be told apart by what they see. `shadow` are those that look for a light. */
export const RULE_RAYS = ['camera', 'diffuse', 'reflection', 'transmission', 'fog', 'shadow'] as const;
export type RuleRay = (typeof RULE_RAYS)[number];

/** Limits of continuation rays that leave an object; null keeps the recipe's. */
const limit = z.number().int().min(0).max(64).nullable().optional();

/**
 * Who sees an object, and how it is rendered apart from its shape and material. Every field may be left out: an
 * object's own value comes first, then that of the last set it is in which has one, then the default.
 */
export const rulesSchema = z.strictObject({
  /** Which rays see it; all do by default. */
  seenBy: z.partialRecord(z.enum(RULE_RAYS), z.boolean()).optional(),
  /** Material that all rays but the camera's meet in place of its own; null = its own. */
  secondaryMaterial: name.nullable().optional(),
  /** Most continuation rays, by kind and in all, that a path may have when it goes on from here. */
  rayDepth: z
    .strictObject({ all: limit, diffuse: limit, reflection: limit, transmission: limit, fog: limit })
    .optional(),
  /** Splits and light samples where the camera sees it, as a multiple of the recipe's. */
  samples: finite
    .min(1 / 16)
    .max(64)
    .optional(),
  /** Whether it focuses light onto matt surfaces, and whether it shows light so focused. */
  castsCaustics: z.boolean().optional(),
  receivesCaustics: z.boolean().optional(),
  /**
   * What the camera sees of it. `catcher`: nothing, but the shadow that other objects cast on it is kept as a plane.
   * `holdout`: nothing, and nothing behind it either.
   */
  role: z.enum(['ordinary', 'catcher', 'holdout']).optional(),
  /** Whether the camera sees its back faces. */
  backs: z.boolean().optional(),
});
export type Rules = z.infer<typeof rulesSchema>;

/** Rules of one object with everything decided. */
export interface ResolvedRules {
  hiddenFrom: RuleRay[];
  secondaryMaterial: string | null;
  rayDepth: { all: number; diffuse: number; reflection: number; transmission: number; fog: number };
  samples: number;
  castsCaustics: boolean;
  receivesCaustics: boolean;
  role: 'ordinary' | 'catcher' | 'holdout';
  backs: boolean;
}

const NO_LIMIT = 1 << 20;

/** What of a scene document rules rest on. */
interface Ruled {
  objects: { name: string; material: string; rules?: Rules }[];
  sets: Record<string, string[]>;
  setRules: Record<string, Rules>;
}

/** The rules of every object, sets and defaults applied. */
export function resolveRules(document: Ruled): ResolvedRules[] {
  const setsOf = new Map<string, Rules[]>();
  for (const [set, members] of Object.entries(document.sets)) {
    const rules = Object.hasOwn(document.setRules, set) ? document.setRules[set] : undefined;
    if (rules) for (const m of members) setsOf.set(m, [rules, ...(setsOf.get(m) ?? [])]);
  }
  return document.objects.map((o) => {
    const chain = [o.rules ?? {}, ...(setsOf.get(o.name) ?? [])];
    const first = <T>(of: (r: Rules) => T | undefined, otherwise: T): T => {
      for (const r of chain) {
        const value = of(r);
        if (value !== undefined) return value;
      }
      return otherwise;
    };
    const most = (kind: keyof NonNullable<Rules['rayDepth']>) => first((r) => r.rayDepth?.[kind], null) ?? NO_LIMIT;
    return {
      hiddenFrom: RULE_RAYS.filter((ray) => !first((r) => r.seenBy?.[ray], true)),
      secondaryMaterial: first((r) => r.secondaryMaterial, null),
      rayDepth: {
        all: most('all'),
        diffuse: most('diffuse'),
        reflection: most('reflection'),
        transmission: most('transmission'),
        fog: most('fog'),
      },
      samples: first((r) => r.samples, 1),
      castsCaustics: first((r) => r.castsCaustics, true),
      receivesCaustics: first((r) => r.receivesCaustics, true),
      role: first((r) => r.role, 'ordinary'),
      backs: first((r) => r.backs, true),
    };
  });
}

/** Material that rays which are not the camera's meet at each object. */
export function secondaryMaterials(document: Ruled): string[] {
  const rules = resolveRules(document);
  return document.objects.map((o, i) => rules[i].secondaryMaterial ?? o.material);
}
