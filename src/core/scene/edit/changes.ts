import type { SceneDocument } from '../document/document';

/** Lists of a document whose items go by name, and what one of them is called. */
const LISTS = {
  cameras: 'camera',
  materials: 'material',
  objects: 'object',
  lights: 'light',
  fogs: 'fog',
  portals: 'portal',
  rigs: 'rig',
  forms: 'form',
  contents: 'picture',
  plates: 'plate',
} as const;
/** Records of a document by name. */
const RECORDS = { sets: 'set', setRules: 'rules of set' } as const;
/** What there is one of. */
const SINGLES = {
  name: 'name',
  width: 'width',
  height: 'height',
  frames: 'frames',
  environment: 'environment',
  groups: 'light groups',
  geometry: 'geometry',
  look: 'look',
} as const;

type ListKey = keyof typeof LISTS;
type RecordKey = keyof typeof RECORDS;
type SingleKey = keyof typeof SINGLES;
type Named = { name: string };

const same = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);

/** A value as a change is told in words. */
function valueText(v: unknown): string {
  if (v === null || v === undefined) return 'none';
  if (typeof v === 'number') return String(Number(v.toPrecision(4)));
  if (typeof v === 'boolean') return v ? 'on' : 'off';
  if (Array.isArray(v) && v.length <= 4 && v.every((x) => typeof x === 'number')) return v.map(valueText).join(' ');
  return typeof v === 'string' ? v : Array.isArray(v) ? `${v.length} entries` : 'changed';
}

const words = (key: string) =>
  key.replace(/([a-z])([A-Z])/g, (_, a, b) => `${a} ${b.toLowerCase()}`).replaceAll('_', ' ');

/** What differs between two values of an item, as "power 2 → 3". */
function fieldChanges(a: unknown, b: unknown, path: string, out: string[]): void {
  if (same(a, b)) return;
  const plain = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null && !Array.isArray(v);
  if (plain(a) && plain(b)) {
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)]))
      fieldChanges(a[key], b[key], path ? `${path} ${words(key)}` : words(key), out);
    return;
  }
  out.push(`${path} ${valueText(a)} → ${valueText(b)}`.trim());
}

/** What changed from one document to another, a line a change, in words. */
export function sceneChanges(from: SceneDocument, to: SceneDocument): string[] {
  const out: string[] = [];
  for (const [key, what] of Object.entries(LISTS) as [ListKey, string][]) {
    const before = new Map((from[key] as Named[]).map((i) => [i.name, i]));
    const after = new Map((to[key] as Named[]).map((i) => [i.name, i]));
    for (const [name, item] of after) {
      const old = before.get(name);
      if (!old) out.push(`${what} ${name} added`);
      else {
        const fields: string[] = [];
        fieldChanges(old, item, '', fields);
        out.push(...fields.map((f) => `${name}: ${f}`));
      }
    }
    for (const name of before.keys()) if (!after.has(name)) out.push(`${what} ${name} removed`);
  }
  for (const [key, what] of Object.entries(RECORDS) as [RecordKey, string][]) {
    for (const name of new Set([...Object.keys(from[key]), ...Object.keys(to[key])])) {
      const [a, b] = [from[key][name], to[key][name]];
      if (same(a, b)) continue;
      out.push(`${what} ${name} ${a === undefined ? 'added' : b === undefined ? 'removed' : 'changed'}`);
    }
  }
  for (const [key, what] of Object.entries(SINGLES) as [SingleKey, string][]) {
    const fields: string[] = [];
    if (key === 'geometry') {
      if (from.geometry.hash !== to.geometry.hash) out.push('geometry changed');
    } else {
      fieldChanges(from[key], to[key], what, fields);
      out.push(...fields);
    }
  }
  return out;
}

/** A document in which both changes are made, and what both changed differently: there the first one's holds. */
export interface Merged {
  document: SceneDocument;
  /** As "light lamp". */
  clashes: string[];
}

/** Joins two edits of one document, item by item. Where both changed an item, `mine` holds and it is named. */
export function mergeScenes(base: SceneDocument, mine: SceneDocument, theirs: SceneDocument): Merged {
  const clashes: string[] = [];
  /** The value to take; undefined means that there is none. */
  const choose = (b: unknown, m: unknown, t: unknown, what: string): unknown => {
    if (same(b, m)) return t;
    if (same(b, t) || same(m, t)) return m;
    clashes.push(what);
    return m;
  };
  const out: Record<string, unknown> = { ...theirs };
  for (const [key, what] of Object.entries(LISTS) as [ListKey, string][]) {
    const by = (d: SceneDocument) => new Map((d[key] as Named[]).map((i) => [i.name, i]));
    const [b, m, t] = [by(base), by(mine), by(theirs)];
    const names = [...t.keys(), ...[...m.keys()].filter((n) => !t.has(n))];
    out[key] = names.flatMap((n) => {
      const value = choose(b.get(n), m.get(n), t.get(n), `${what} ${n}`);
      return value === undefined ? [] : [value];
    });
  }
  for (const [key, what] of Object.entries(RECORDS) as [RecordKey, string][]) {
    const record: Record<string, unknown> = {};
    for (const n of new Set([...Object.keys(theirs[key]), ...Object.keys(mine[key])])) {
      const value = choose(base[key][n], mine[key][n], theirs[key][n], `${what} ${n}`);
      if (value !== undefined) record[n] = value;
    }
    out[key] = record;
  }
  for (const [key, what] of Object.entries(SINGLES) as [SingleKey, string][]) {
    const value = choose(base[key], mine[key], theirs[key], what);
    if (value === undefined) delete out[key];
    else out[key] = value;
  }
  return { document: out as SceneDocument, clashes };
}
