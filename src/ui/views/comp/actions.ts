import { toast } from 'sonner';
import {
  at,
  freeName,
  inserted,
  keyedAt,
  keyOf,
  movedTo,
  nested,
  type Path,
  type Place,
  placeOf,
  type StackDocument,
  unkeyedAt,
  unnested,
  withAt,
} from '@/core/comp';
import { useDesk } from '../../state/desk-store';
import { useStack } from '../../state/stack-store';

/** Where an entry stands, as one text, and back. */
export const pathText = (path: Path): string => path.join('.');
export const pathOf = (text: string): Path => text.split('.').map((k) => (/^\d+$/.test(k) ? Number(k) : k));

/** Opens an entry, or none; a mask of another is no longer looked at. */
export const pick = (path: Path | null): void =>
  useDesk.getState().set({ entry: path && pathText(path), stackMask: null });

const say = (fault: string | null): boolean => {
  if (fault) toast.error(fault);
  return fault === null;
};

/** Changes the stack, in words; says what is refused. */
export function change(words: string, to: (stack: StackDocument) => StackDocument, dragKey?: string): boolean {
  const { stack, replace } = useStack.getState();
  return stack !== null && say(replace(words, to(stack), dragKey));
}

/** Sets a value of an entry, at the frame where it is set at frames; the fault in words. */
export const put = (words: string, path: Path, value: unknown, frame: number, drag: boolean): string | null =>
  useStack.getState().put(words, path, value, frame, drag ? pathText(path) : undefined);

/** Sets a value at a frame, and so over frames from now on; or no longer, where it is set there. */
export function toggleKey(words: string, path: Path, frame: number, value: unknown): void {
  const { stack } = useStack.getState();
  const isHere = keyOf(stack && at(stack, path))?.keys.some((k) => k.frame === frame);
  change(`${words}: ${isHere ? 'no key' : 'key'} at ${frame}`, (s) =>
    isHere ? unkeyedAt(s, path, frame) : keyedAt(s, path, frame, value),
  );
}

export function add(words: string, place: Place, entry: object): void {
  if (change(words, (s) => inserted(s, place, entry))) pick([...place.list, place.index]);
}

export function remove(words: string, path: Path): void {
  if (change(`${words} taken away`, (s) => withAt(s, path, undefined))) pick(null);
}

export function duplicate(words: string, path: Path): void {
  const { list, index } = placeOf(path);
  const { stack } = useStack.getState();
  if (stack) add(`${words} twice`, { list, index: index + 1 }, at(stack, path) as object);
}

export function move(words: string, path: Path, to: Place): void {
  change(`${words} elsewhere`, (s) => movedTo(s, path, to));
}

/** Moves an entry one place up or down in its list. */
export function step(words: string, path: Path, up: boolean): void {
  const { list, index } = placeOf(path);
  const { stack } = useStack.getState();
  const count = stack ? (at(stack, list) as unknown[]).length : 0;
  const to = up ? index + 2 : index - 1;
  if (to < 0 || to > count) return;
  if (change(`${words} ${up ? 'up' : 'down'}`, (s) => movedTo(s, path, { list, index: to })))
    pick([...list, up ? index + 1 : index - 1]);
}

/** Makes an entry and what lies below it in its list one layer. */
export function nest(path: Path): void {
  const { list, index } = placeOf(path);
  if (change('nest', (s) => nested(s, [...list, 0], index + 1, ''))) pick([...list, 0]);
}

export function unnest(path: Path): void {
  if (change('nest taken apart', (s) => unnested(s, path))) pick(null);
}

/** Takes a layer's light in a mood of the shot, or as it was rendered. */
export function takeMood(words: string, path: Path, mood: string | null): void {
  change(`${words} ${mood === null ? 'as rendered' : `in ${mood}`}`, (s) => {
    const named = mood === null ? s : withAt(s, ['moods'], { ...(s.moods as object), [mood]: mood });
    return withAt(named, [...path, 'source', 'mood'], mood);
  });
}

/** Adds a mask to the stack and has an entry go by it. */
export function addMask(path: Path, name: string, items: object[]): void {
  change(`mask ${name}`, (s) => {
    const masks = (s.masks ?? {}) as object;
    const free = freeName(masks, name);
    const now = withAt(s, ['masks'], { ...masks, [free]: { of: items } });
    return withAt(now, [...path, 'mask'], free);
  });
}
