import type { z } from 'zod';
import { cameraSchema, fogSchema, objectSchema, type SceneDocument } from '../document/document';
import { environmentSchema, lightSchema } from '../document/light';
import { lookSchema } from '../document/look';
import { materialSchema } from '../document/material';
import { rulesSchema } from '../document/rules';
import type { ItemRef } from './items';

/** What has fields: an item by its name, or a thing that a document has one of. */
export type FieldOwner = ItemRef | { kind: 'environment' | 'look' | 'rules'; name: string };

/** A value that a field cannot take, in words. */
export class FieldError extends Error {}

function ownerOf(document: SceneDocument, owner: FieldOwner): unknown {
  switch (owner.kind) {
    case 'object':
      return document.objects.find((o) => o.name === owner.name);
    case 'light':
      return document.lights.find((l) => l.name === owner.name);
    case 'camera':
      return document.cameras.find((c) => c.name === owner.name);
    case 'material':
      return document.materials.find((m) => m.name === owner.name);
    case 'fog':
      return document.fogs.find((f) => f.name === owner.name);
    case 'set':
    case 'rules':
      return document.setRules[owner.name] ?? {};
    default:
      return document[owner.kind];
  }
}

/** The value of a dotted field; undefined where it is not set or there is no such owner. */
export function fieldAt(document: SceneDocument, owner: FieldOwner, path: string): unknown {
  return path
    .split('.')
    .reduce<unknown>((v, key) => (v as Record<string, unknown> | null | undefined)?.[key], ownerOf(document, owner));
}

function withPath(value: unknown, keys: string[], to: unknown): unknown {
  const [key, ...rest] = keys;
  const own = value as Record<string, unknown> | unknown[] | null | undefined;
  if (Array.isArray(own))
    return own.map((v, i) => (String(i) === key ? (rest.length ? withPath(v, rest, to) : to) : v));
  const next = rest.length ? withPath(own?.[key], rest, to) : to;
  const out = { ...own, [key]: next };
  if (next === undefined) delete out[key];
  return out;
}

function checked<T>(schema: z.ZodType<T>, value: unknown, path: string): T {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const issue = result.error.issues[0];
  throw new FieldError(`${issue.path.join('.') || path}: ${issue.message}`);
}

/**
 * The document with a dotted field of an owner set, checked against its schema; undefined takes the field away.
 * Throws `FieldError` where the value cannot be.
 */
export function withField(document: SceneDocument, owner: FieldOwner, path: string, value: unknown): SceneDocument {
  const before = ownerOf(document, owner);
  if (before === undefined) throw new FieldError(`${owner.kind} ${owner.name} is not there any more`);
  const after = withPath(before, path.split('.'), value);
  const swap = <T extends { name: string }>(list: T[], item: T) => list.map((i) => (i.name === owner.name ? item : i));
  switch (owner.kind) {
    case 'object':
      return { ...document, objects: swap(document.objects, checked(objectSchema, after, path)) };
    case 'light':
      return { ...document, lights: swap(document.lights, checked(lightSchema, after, path)) };
    case 'camera':
      return { ...document, cameras: swap(document.cameras, checked(cameraSchema, after, path)) };
    case 'material':
      return { ...document, materials: swap(document.materials, checked(materialSchema, after, path)) };
    case 'set':
    case 'rules':
      return {
        ...document,
        setRules: { ...document.setRules, [owner.name]: checked(rulesSchema, after, path) },
      };
    case 'environment':
      return { ...document, environment: checked(environmentSchema, after, path) };
    case 'fog':
      return { ...document, fogs: swap(document.fogs, checked(fogSchema, after, path)) };
    case 'look':
      return { ...document, look: checked(lookSchema, after, path) };
  }
}

/** What several owners have in a field: one value, or that they differ. */
export type Shared = { same: true; value: unknown } | { same: false };

export function sharedField(document: SceneDocument, owners: readonly FieldOwner[], path: string): Shared {
  const values = owners.map((o) => fieldAt(document, o, path));
  const first = JSON.stringify(values[0]);
  return values.every((v) => JSON.stringify(v) === first) ? { same: true, value: values[0] } : { same: false };
}
