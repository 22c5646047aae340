import { z } from 'zod';

/** Pieces that the schemas of materials, lights and scenes share. */
export const finite = z.number().finite();
export const vec3 = z.tuple([finite, finite, finite]);
/** Linear Rec.709. */
export const color = z.tuple([finite.min(0), finite.min(0), finite.min(0)]);
export const unit = finite.min(0).max(1);
export const name = z.string().min(1).max(120);
/** Lower-case identifier that is also a valid OpenEXR layer name. */
export const groupName = z.string().regex(/^[a-z0-9_]{1,40}$/, 'use a-z, 0-9 and _');
