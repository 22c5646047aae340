import { type Keyed, keyOf, valueAt } from './keys';
import { checkStack } from './stack';

/** A stack as it is kept: any number in it may be set at frames (`keys.ts`); `stackAt` reads it at one. */
export type StackDocument = Readonly<Record<string, unknown>>;
/** Where something stands in a document. */
export type Path = readonly (string | number)[];

/** The name of the film that a shot's stack begins with, and where it is: what A shows. */
export const SHOWN = 'shown';
export const IN_A = 'A';

/** What stands before the identifier of a trial whose film a stack of a shot takes. */
export const OF_TRIAL = 'trial:';

/** What stands before the name of an output of a variant whose picture a stack of a shot takes: of the same frame, in a run. */
export const OF_VARIANT = 'variant:';

/** What stands before the name of a file of layers that a stack of a shot takes. */
export const OF_FILE = 'file:';

/** What a shot has before anyone has stacked anything. */
export const NO_STACK: StackDocument = { schema: 1, films: { [SHOWN]: IN_A }, entries: [] };

/** A stack as it was sent or read, checked at every frame. Throws `StackError` that names the key. */
export function parseStack(value: unknown): StackDocument {
  checkStack(value);
  return value as StackDocument;
}

/** What stands at a place of a document; undefined for nothing. */
export const at = (value: unknown, path: Path): unknown =>
  path.reduce<unknown>((v, key) => (typeof v === 'object' && v !== null ? v[key as never] : undefined), value);

/** A document with something else at a place of it; `undefined` takes away what is there. */
export function withAt<T>(value: T, path: Path, to: unknown): T {
  if (path.length === 0) return to as T;
  const [key, ...rest] = path;
  const next = withAt(at(value, [key]), rest, to);
  if (Array.isArray(value)) {
    const items: unknown[] = [...value];
    if (next === undefined) items.splice(Number(key), 1);
    else items[Number(key)] = next;
    return items as T;
  }
  const { [key]: _, ...others } = Object(value) as Record<string, unknown>;
  return (next === undefined ? others : { ...(value as object), [key]: next }) as T;
}

const byFrame = (a: { frame: number }, b: { frame: number }) => a.frame - b.frame;

/** A value set: at a frame where it is set at frames, everywhere else. */
export function setAt(document: StackDocument, path: Path, value: unknown, frame: number): StackDocument {
  const keyed = keyOf(at(document, path));
  return withAt(document, path, keyed ? withKey(keyed, frame, value) : value);
}

const withKey = (keyed: Keyed, frame: number, value: unknown): Keyed => ({
  ...keyed,
  keys: [...keyed.keys.filter((k) => k.frame !== frame), { frame, value }].sort(byFrame),
});

/** A value set at a frame, and so at frames from now on; `value`: what it is where nothing stands yet. */
export function keyedAt(document: StackDocument, path: Path, frame: number, value: unknown): StackDocument {
  const own = at(document, path);
  const keyed = keyOf(own);
  if (keyed) return withAt(document, path, withKey(keyed, frame, valueAt(keyed, frame)));
  return withAt(document, path, { keys: [{ frame, value: own ?? value }], ease: true });
}

/** A value no longer set at a frame; without its last key it stays what it was there. */
export function unkeyedAt(document: StackDocument, path: Path, frame: number): StackDocument {
  const keyed = keyOf(at(document, path));
  if (!keyed) return document;
  const keys = keyed.keys.filter((k) => k.frame !== frame);
  return withAt(document, path, keys.length > 0 ? { ...keyed, keys } : valueAt(keyed, frame));
}

/** A key at another frame; one that is there gives way. */
export function movedKey(document: StackDocument, path: Path, from: number, to: number): StackDocument {
  const keyed = keyOf(at(document, path));
  const key = keyed?.keys.find((k) => k.frame === from);
  if (!keyed || !key || from === to) return document;
  return withAt(document, path, withKey({ ...keyed, keys: keyed.keys.filter((k) => k !== key) }, to, key.value));
}

/** Everything that is set at frames, with where it stands. */
export function keyedValues(value: unknown, path: Path = []): { path: Path; keyed: Keyed }[] {
  if (typeof value !== 'object' || value === null) return [];
  const keyed = keyOf(value);
  if (keyed) return [{ path, keyed }];
  const isList = Array.isArray(value);
  return Object.entries(value).flatMap(([key, v]) => keyedValues(v, [...path, isList ? Number(key) : key]));
}

/** Where an entry may go: a list of entries, by the path of it, and the place in it. */
export interface Place {
  list: Path;
  index: number;
}

/** Where an entry stands. */
export const placeOf = (path: Path): Place => ({ list: path.slice(0, -1), index: Number(path.at(-1)) });

const listAt = (document: StackDocument, list: Path): unknown[] => [...((at(document, list) as unknown[]) ?? [])];

/** An entry put into a list, before what has stood at the place. */
export function inserted(document: StackDocument, { list, index }: Place, entry: unknown): StackDocument {
  const items = listAt(document, list);
  items.splice(index, 0, entry);
  return withAt(document, list, items);
}

/** Whether a place lies in what stands at a path. */
const isWithin = (place: Path, path: Path) => path.every((key, i) => place[i] === key);

/** An entry moved before what stands at a place; into itself nothing can go. */
export function movedTo(document: StackDocument, path: Path, to: Place): StackDocument {
  if (isWithin(to.list, path)) return document;
  const entry = at(document, path);
  const { list, index } = placeOf(path);
  const isSame = list.length === to.list.length && isWithin(to.list, list);
  if (isSame && (to.index === index || to.index === index + 1)) return document;
  // What is taken out first has all behind it in its list move up by one, lists in those too.
  const shifts = (key: string | number) => typeof key === 'number' && key > index;
  const listNow =
    to.list.length > list.length && isWithin(to.list, list)
      ? to.list.map((key, i) => (i === list.length && shifts(key) ? Number(key) - 1 : key))
      : to.list;
  const indexNow = isSame && to.index > index ? to.index - 1 : to.index;
  return inserted(withAt(document, path, undefined), { list: listNow, index: indexNow }, entry);
}

/** Entries of one list made one layer, where the lowest of them stood. */
export function nested(document: StackDocument, path: Path, count: number, name: string): StackDocument {
  const { list, index } = placeOf(path);
  const items = listAt(document, list);
  const entries = items.splice(index, count);
  items.splice(index, 0, { kind: 'nest', name, entries });
  return withAt(document, list, items);
}

/** What a nest holds, in its place. */
export function unnested(document: StackDocument, path: Path): StackDocument {
  const { list, index } = placeOf(path);
  const items = listAt(document, list);
  items.splice(index, 1, ...listAt(document, [...path, 'entries']));
  return withAt(document, list, items);
}

/** A name that a record does not have yet: as it is, or with a number. */
export function freeName(record: object, name: string): string {
  let out = name;
  for (let n = 2; Object.hasOwn(record, out); n++) out = `${name} ${n}`;
  return out;
}
