import { at, type Path, type Stack } from '@/core/comp';
import { coverageNames } from '@/core/scene';
import { useDesk } from '../../state/desk-store';
import { useScene } from '../../state/scene-store';
import { useStack } from '../../state/stack-store';
import { tell } from '../../state/tell';
import type { ViewEntry } from '../entry';
import { pathOf, put } from './actions';

/** The things that the mask of the open entry picks, and where they stand; null where it picks none. */
function picking(): { path: Path; names: readonly string[]; mask: string } | null {
  const { stack } = useStack.getState();
  const { entry } = useDesk.getState();
  const mask = stack && entry !== null ? at(stack, [...pathOf(entry), 'mask']) : null;
  if (typeof mask !== 'string' || !stack) return null;
  const of = (at(stack, ['masks', mask, 'of']) ?? []) as Stack['masks'][string]['of'];
  const index = of.findIndex((item) => item.kind === 'picked');
  const item = of[index];
  return item?.kind === 'picked' ? { path: ['masks', mask, 'of', index, 'names'], names: item.names, mask } : null;
}

/** While an entry is open whose mask picks things, a click into A takes what lies there into it, or out of it. */
export const TAKES: NonNullable<ViewEntry['takes']> = {
  words: ({ overlay }) => {
    const now = overlay === 'none' ? picking() : null;
    return now && `${now.mask}: click takes in · Alt-click takes out · Shift-drag takes all in a box`;
  },
  take: (client, area, out) => {
    const { document } = useScene.getState();
    if (!document) return;
    client
      .ask('covering', { area, names: coverageNames(document) })
      .then((found) => {
        const now = picking();
        if (!now) return;
        const names = area.w > 0 && area.h > 0 ? found : found.slice(0, 1);
        if (names.length === 0) throw new Error('no object is there');
        const next = out ? now.names.filter((n) => !names.includes(n)) : [...new Set([...now.names, ...names])];
        put(`${out ? 'less' : 'more'} in ${now.mask}`, now.path, next, 1, false);
      })
      .catch(tell);
  },
};
