import { z } from 'zod';

/** Pieces that the schemas of materials, lights and scenes share. */
export const finite = z.number().finite();
export const vec3 = z.tuple([finite, finite, finite]);
/** Linear Rec.709. */
export const color = z.tuple([finite.min(0), finite.min(0), finite.min(0)]);
export const unit = finite.min(0).max(1);
export const name = z.string().min(1).max(120);
/**
 * What a light group's light can be kept apart by, by how the camera sees it: the lights themselves, these in mirrors and glass, what they
 * light of surfaces, and of fog. Mirrors and glass are sharp ones; the first other thing on the way counts.
 */
export const LIGHT_PARTS = ['seen', 'mirrors', 'surfaces', 'fog'] as const;
export type LightPart = (typeof LIGHT_PARTS)[number];

/**
 * Name of a light group, lower-case and valid in names of OpenEXR layers; one that stands for a single light of a group has
 * that before a dot.
 */
export const groupName = z
  .string()
  .regex(/^[a-z0-9_]{1,40}(\.[a-z0-9_]{1,40})?$/, 'use a-z, 0-9 and _, and one dot between a group and a light of it')
  .refine((n) => !LIGHT_PARTS.some((p) => n.endsWith(`.${p}`)), `${LIGHT_PARTS.join(', ')} are no names of lights`);

/** Most fogs of a scene: the kernel has a bit for each. */
export const MOST_FOGS = 16;
