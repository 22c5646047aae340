import { coverageNames, pickableOf } from '@/core/scene';
import { useDesk } from '../../state/desk-store';
import { maskOf } from '../../state/masks';
import { useOutputs } from '../../state/outputs-store';
import { useScene } from '../../state/scene-store';
import { tell } from '../../state/tell';
import { roleNow, variantOutputNow } from '../../state/variants';
import type { ViewEntry } from '../entry';
import { pickInto, takeOut } from './masks';
import { objectPicks, withoutObjects, withPicks } from './picks';
import { chooseFor, picksOf, ROLE_WORDS } from './variant';

/** Takes things into a role of the variant that is edited, or out of it; the fault in words. */
function intoRole(names: readonly string[], out: boolean): string | null {
  const role = roleNow();
  const output = variantOutputNow();
  const { document } = useScene.getState();
  if (!role || !output || !document) return null;
  const own = picksOf(output, role);
  const next = out ? withoutObjects(own, names, pickableOf(document)) : withPicks(own, objectPicks(names));
  const what = names.length === 1 ? names[0] : `${names.length} things`;
  return chooseFor(output, role, next, `${what} ${out ? 'not ' : ''}${ROLE_WORDS[role]}`);
}

/** Takes things into the mask that is looked at, or out of it; the fault in words. */
function intoMask(names: readonly string[], out: boolean): string | null {
  const mask = maskOf(useOutputs.getState().outputs?.masks ?? [], useDesk.getState().layer);
  if (!mask) return null;
  return out ? takeOut(mask, names) : pickInto(mask, objectPicks(names));
}

const HOW = 'Click takes in · Alt-click takes out · Shift-drag takes all in a box';

/** While a mask is looked at or things are chosen for a variant, a click takes what lies there, and a box all that is in it. */
export const TAKES: NonNullable<ViewEntry['takes']> = {
  words: ({ layer, overlay, role }) => {
    if (overlay !== 'none') return null;
    if (role) return `${ROLE_WORDS[role]}: ${HOW} · Esc ends it`;
    return maskOf(useOutputs.getState().outputs?.masks ?? [], layer) ? HOW : null;
  },
  take: (client, area, out) => {
    const { document } = useScene.getState();
    if (!document) return;
    client
      .ask('covering', { area, names: coverageNames(document) })
      .then((found) => {
        const names = area.w > 0 && area.h > 0 ? found : found.slice(0, 1);
        if (names.length === 0) throw new Error('no object is there');
        const fault = roleNow() ? intoRole(names, out) : intoMask(names, out);
        if (fault) throw new Error(fault);
      })
      .catch(tell);
  },
};
