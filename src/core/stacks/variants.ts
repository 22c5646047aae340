import { IN_A, OF_VARIANT, type StackDocument, stackNeeds } from '../comp';
import { isOfVariant, type Variant, type Varied } from '../outputs';

type Named = Varied & { name: string };

/** Where the films are that a stack takes. */
const wheres = (stack: StackDocument): string[] => Object.values((stack.films ?? {}) as Record<string, string>);

/** The output whose picture a film of a stack is, by where the stack says that it is; undefined for any other film. */
export const outputAt = <O extends Named>(where: string, list: readonly O[]): O | undefined =>
  where.startsWith(OF_VARIANT) ? list.find((o) => o.name === where.slice(OF_VARIANT.length)) : undefined;

/** Variants whose pictures a stack takes, by where it says that they are; those that no output is of any more are left out. */
export function variantsIn(stack: StackDocument, list: readonly Named[]): Map<string, Variant | null> {
  return new Map(
    wheres(stack).flatMap((where) => {
      const output = outputAt(where, list);
      return output ? [[where, output.variant] as const] : [];
    }),
  );
}

/** A stack after an output was called otherwise. */
export function withRenamed(stack: StackDocument, from: string, to: string): StackDocument {
  const films = (stack.films ?? {}) as Record<string, string>;
  const [old, now] = [from, to].map((name) => `${OF_VARIANT}${name}`);
  if (!Object.values(films).includes(old)) return stack;
  return {
    ...stack,
    films: Object.fromEntries(Object.entries(films).map(([name, where]) => [name, where === old ? now : where])),
  };
}

/** Layers that the film of a picture must keep for the shot's stack, the shot's own or that of a variant. */
export function pictureNeeds(stack: StackDocument, list: readonly Named[], variant: Variant | null): string[] {
  const own = isOfVariant({ variant }, null) ? stackNeeds(stack, IN_A) : [];
  const taken = [...variantsIn(stack, list)].filter(([, v]) => isOfVariant({ variant }, v));
  return [...new Set([...own, ...taken.flatMap(([where]) => stackNeeds(stack, where))])];
}
