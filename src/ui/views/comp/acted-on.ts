import { at, type Entry, type Path, type Stack } from '@/core/comp';

/**
 * A stack of what an operation acts on, before it does: of an operation on all below what is below it in its list, of one on a layer alone that layer with
 * what was done to it so far. `base`: where the operation stands.
 */
export function actedOn(stack: Stack, base: Path): Stack {
  const isOwn = base.at(-2) === 'operations';
  const path = base.slice(0, isOwn ? -2 : -1);
  const list = at(stack, path.slice(0, -1)) as Entry[];
  const index = Number(path.at(-1));
  if (!isOwn) return { ...stack, entries: list.slice(0, index) };
  const entry = list[index] as Exclude<Entry, { kind: 'operation' }>;
  const operations = entry.operations.slice(0, Number(base.at(-1)));
  return { ...stack, entries: [{ ...entry, on: true, opacity: 1, mask: null, way: 'over', operations }] };
}
