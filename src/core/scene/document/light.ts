import { z } from 'zod';
import { color, finite, groupName, name, vec3 } from './terms';

const gain = finite.min(0).default(1);

/** How strong a light is in each of its roles; 1 is as it is. */
export const gainsSchema = z.strictObject({
  /** Seen directly by the camera. */
  seen: gain,
  /** Seen in mirror-like reflection. */
  mirrors: gain,
  /** On diffuse surfaces. */
  diffuse: gain,
  /** In reflection that is not mirror-like. */
  reflection: gain,
  /** Through glass and other transmission. */
  transmission: gain,
  /** In fog. */
  fog: gain,
});

/** What every source of light has beside its shape: who gets its light, in which role, how often it is sampled. */
export const sharedControls = {
  /** Switched off, it gives no light and keeps all its settings. */
  on: z.boolean().default(true),
  gains: gainsSchema.prefault({}),
  /** Samples of its own at every vertex; null shares the recipe's light samples with the others. */
  samples: z.number().int().min(1).max(64).nullable().default(null),
  /** Bounces up to which it gives light; null = the recipe's depth. */
  bounces: z.number().int().min(0).max(64).nullable().default(null),
  /** Names of objects or sets it lights alone. */
  include: z.array(name).nullable().default(null),
  /** Names of objects or sets it does not light. */
  exclude: z.array(name).default([]),
};
export const lightControls = { group: groupName.default('other'), ...sharedControls };
const controlsSchema = z.strictObject(sharedControls);
export type LightControls = z.infer<typeof controlsSchema>;

const lamp = {
  name,
  ...lightControls,
  /** Strength before colour, in `unit`, times two to the power of `stops`. */
  power: finite.min(0),
  stops: finite.min(-30).max(30).default(0),
  color: color.default([1, 1, 1]),
  kelvin: finite.min(1000).max(40000).optional(),
  /** Whether rays that look at the scene can meet its shape. */
  visible: z.boolean().default(true),
  /** Object whose transform carries the light along. */
  parent: name.nullable().default(null),
  /** Places and directions at frames, instead of its own; in between they go evenly. */
  motion: z
    .array(z.strictObject({ frame: finite, position: vec3.optional(), facing: vec3.optional(), up: vec3.optional() }))
    .min(2)
    .optional(),
};
const facing = {
  position: vec3,
  /** Direction the front faces. */
  facing: vec3,
  up: vec3.default([0, 1, 0]),
};
const area = {
  ...facing,
  unit: z.enum(['nits', 'lumens', 'candela']).default('nits'),
  /** Whole angle of the cone that its light keeps to; 180 spreads it evenly. */
  spreadDegrees: finite.min(2).max(180).default(180),
  /** Object whose place, direction and size the light takes; its own are ignored. */
  follow: name.nullable().default(null),
};

export const lightSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('rectangle'),
    ...lamp,
    ...area,
    width: finite.positive(),
    height: finite.positive(),
  }),
  z.strictObject({ kind: z.literal('disk'), ...lamp, ...area, radius: finite.positive() }),
  z.strictObject({
    kind: z.literal('sphere'),
    ...lamp,
    position: vec3,
    radius: finite.positive(),
    unit: z.enum(['nits', 'lumens', 'candela']).default('nits'),
    follow: name.nullable().default(null),
  }),
  z.strictObject({
    kind: z.literal('spot'),
    ...lamp,
    ...facing,
    unit: z.enum(['candela', 'lumens']).default('candela'),
    /** Whole angle at which the light has faded to nothing. */
    coneDegrees: finite.min(0.1).max(179).default(40),
    /** Part of the cone's half angle over which it fades. */
    softness: finite.min(0).max(1).default(0.2),
  }),
  z.strictObject({
    kind: z.literal('point'),
    ...lamp,
    position: vec3,
    unit: z.enum(['candela', 'lumens']).default('candela'),
  }),
  z.strictObject({
    kind: z.literal('distant'),
    ...lamp,
    /** Direction in which its light travels. */
    facing: vec3,
    unit: z.enum(['lux', 'nits']).default('lux'),
    /** Angle of its disc in the sky; 0 casts hard shadows. */
    angleDegrees: finite.min(0).max(90).default(0),
  }),
]);
export type Light = z.infer<typeof lightSchema>;

/** A rectangle through which the environment reaches a room: guides sampling, blocks and adds nothing. */
export const portalSchema = z.strictObject({
  name,
  ...facing,
  width: finite.positive(),
  height: finite.positive(),
});
export type Portal = z.infer<typeof portalSchema>;

const lift = finite.min(-30).max(30).default(0);
/** What every channel of its light is multiplied by. */
const tint = color.default([1, 1, 1]);
/** `stops`: by which it is lifted, of a sky apart from its sun. */
const environmentBase = { ...lightControls, stops: lift, tint };

export const environmentSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('gradient'),
    ...environmentBase,
    zenith: color,
    horizon: color,
    ground: color,
    /** A soft disc of light in the sky. */
    moon: z
      .strictObject({ direction: vec3, angleDegrees: finite.positive().max(60), luminance: finite.min(0), color })
      .optional(),
  }),
  z.strictObject({
    kind: z.literal('picture'),
    ...environmentBase,
    picture: name,
    /** Nits per unit of the picture. */
    scale: finite.min(0).default(1),
    rotationDegrees: finite.default(0),
  }),
  z.strictObject({
    kind: z.literal('sky'),
    ...environmentBase,
    /** `daylight`: fitted luminances and colours [Preetham et al. 1999]; `scattering`: single scattering in the air [Nishita et al. 1993]. */
    model: z.enum(['daylight', 'scattering']).default('daylight'),
    /** Haze, from 2 (clear) to 10. */
    turbidity: finite.min(1.7).max(10).default(3),
    ground: color.default([0.15, 0.15, 0.15]),
    sun: z
      .strictObject({
        heightDegrees: finite.min(-90).max(90).default(30),
        /** Clockwise from −Z seen from above. */
        bearingDegrees: finite.default(0),
        angleDegrees: finite.min(0.05).max(30).default(0.53),
        stops: lift,
        tint,
        ...lightControls,
        group: groupName.default('sun'),
      })
      .prefault({}),
  }),
]);
export type Environment = z.infer<typeof environmentSchema>;

/** An environment of a picture in the place of another, whose group, roles, gain and turn it keeps. */
export function picturedEnvironment(before: Environment | null, picture: string): Environment {
  const controls = Object.entries(before ?? { group: 'environment' }).filter(([key]) => key in lightControls);
  const turned = before?.kind === 'picture' ? { scale: before.scale, rotationDegrees: before.rotationDegrees } : {};
  return environmentSchema.parse({ ...Object.fromEntries(controls), ...turned, kind: 'picture', picture });
}

/** Direction towards a sky's sun. */
export function sunDirection(
  sun: { heightDegrees: number; bearingDegrees: number },
  trig: { sin: (x: number) => number; cos: (x: number) => number },
): [number, number, number] {
  const [h, b] = [(sun.heightDegrees * Math.PI) / 180, (sun.bearingDegrees * Math.PI) / 180];
  return [trig.cos(h) * trig.sin(b), trig.sin(h), -trig.cos(h) * trig.cos(b)];
}
