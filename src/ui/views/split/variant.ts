import type { Output, Variant } from '@/core/outputs';
import type { ThingPick } from '@/core/scene';
import { useOutputs } from '../../state/outputs-store';
import { chosenFor, type Role } from '../../state/variants';

type Value = Variant[string];

/** Roles of things in a variant, in words. */
export const ROLE_WORDS: Record<Role, string> = {
  receivers: 'rendered',
  casters: 'casting unseen',
  catchers: 'catching shadow',
};

/** Sets what a variant differs in, by dotted settings; undefined follows the shot again. The fault in words when it is refused. */
export function vary(output: Output, words: string, changes: Record<string, Value | undefined>): string | null {
  return useOutputs.getState().edit(`${output.name}: ${words}`, output.id, (o) => {
    const variant = { ...o.variant };
    for (const [path, value] of Object.entries(changes)) {
      if (value === undefined) delete variant[path];
      else variant[path] = value;
    }
    return { ...o, variant };
  });
}

/** Gives an output a picture of its own, in which nothing differs yet, or takes that away. */
export function ownPicture(output: Output, own: boolean): string | null {
  const words = `${output.name}: ${own ? 'a picture of its own' : 'the picture of the shot'}`;
  return useOutputs.getState().edit(words, output.id, (o) => ({ ...o, variant: own ? {} : null }));
}

/** Chooses things for a role; null lets the shot's own hold. */
export const chooseFor = (output: Output, role: Role, picks: readonly ThingPick[] | null, words: string) =>
  vary(output, words, {
    [`scope.${role}`]: picks === null ? undefined : picks.map(({ kind, name }) => ({ kind, name })),
  });

/** Things that are chosen for a role; none where the shot's own hold. */
export const picksOf = ({ variant }: Output, role: Role): readonly ThingPick[] => chosenFor(variant, role) ?? [];
