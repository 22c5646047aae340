import { useMemo } from 'react';
import type { Recipe } from '@/core/recipe';
import { coverageNames, pickableOf, pickedBy, type ThingPick } from '@/core/scene';
import type { Roles } from '@/render/views/roles';
import { useDocument } from './scene-now';
import { chosenFor, type Role, useRole, useVariantOutput } from './variants';

/** What things of the scene are in the variant that is edited, while things are chosen for it; null at other times. */
export function useRoles(scope: Recipe['scope'] | undefined): Roles | null {
  const output = useVariantOutput();
  const role = useRole();
  const document = useDocument();
  return useMemo(() => {
    if (!role || !output || !scope) return null;
    const from = pickableOf(document);
    const all = coverageNames(document);
    const named = (names: readonly string[]) => ({ names, numbers: names.map((n) => all.indexOf(n) + 1) });
    const of = (r: Role) => chosenFor(output.variant, r) ?? scope[r];
    const names = (picks: readonly ThingPick[]) => pickedBy(picks, from).names;
    const catchers = names(of('catchers') ?? []);
    const [receivers, casters] = [of('receivers'), of('casters')];
    const seen = (receivers ? names(receivers) : all).filter((n) => !catchers.includes(n));
    const rest = all.filter((n) => !seen.includes(n) && !catchers.includes(n));
    const cast = casters ? names(casters) : all;
    return { receivers: named(seen), casters: named(rest.filter((n) => cast.includes(n))), catchers: named(catchers) };
  }, [role, output, scope, document]);
}
