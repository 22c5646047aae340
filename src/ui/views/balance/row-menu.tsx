'use client';

import { Ellipsis } from 'lucide-react';
import { toast } from 'sonner';
import { frameOf } from '@/core/recipe';
import {
  closed,
  lightGroups,
  MOST_GROUPS,
  namedGroups,
  neededGroups,
  opened,
  type SceneDocument,
  singlesIn,
  UNASSIGNED,
  withGroups,
  withOuter,
  withParts,
} from '@/core/scene';
import { bytes, share, words } from '@/core/words';
import type { RecordingCost } from '@/render/advice/recording';
import { Menu, MenuHeading, MenuItem, MenuLine } from '../../parts/menu';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useLive } from '../../state/live-store';
import { useRecipe } from '../../state/recipe-store';
import { keepApart, regroup } from '../../state/regroup';
import { useDocument, usePatient } from '../../state/scene-now';

/** A way to keep a light group's light: in words, the scene by it, and what does it. */
interface Way {
  words: string;
  to: SceneDocument;
  make: () => string | null;
}

/** The ways in which the light of a group can be kept otherwise than it is. */
function waysOf(document: SceneDocument, group: string): Way[] {
  const name = words(group);
  const named = namedGroups(document);
  if (named.some((g) => g.startsWith(`${group}.`)))
    return [
      {
        words: 'its lights together',
        to: withGroups(document, closed(document, group)),
        make: () => regroup(`lights of ${name} together`, (d) => closed(d, group)),
      },
    ];
  if (!named.includes(group) || group === UNASSIGNED) return [];
  const isApart = document.apart?.includes(group) ?? false;
  const parts: Way = {
    words: isApart ? 'what is seen of it together' : 'itself, mirrors, surfaces, fog apart',
    to: withParts(document, group, !isApart),
    make: () => keepApart(`${name} ${isApart ? 'together' : 'by how it is seen'}`, group, !isApart),
  };
  const count = singlesIn(document, group);
  if (count < 2 || group.includes('.')) return [parts];
  return [
    {
      words: `its ${count} lights apart`,
      to: withGroups(document, opened(document, group)),
      make: () => regroup(`lights of ${name} apart`, (d) => opened(d, group)),
    },
    parts,
  ];
}

const MEASURABLE = 0.005;

/** What a way costs, in few words: bytes as they are told, time as it was measured. */
export function costWords({ stored, time: { ratio, least, most } }: RecordingCost): string {
  const size = stored < 0 ? `−${bytes(-stored)}` : `+${bytes(stored)}`;
  const of = (r: number) => `${r < 1 ? '−' : '+'}${Math.abs((r - 1) * 100).toFixed(0)}`;
  const isAlike = Math.abs(ratio - 1) < MEASURABLE || (least <= 1 && most >= 1);
  return `${size} a film · time ${isAlike ? 'alike' : `${of(ratio)} %`} (${of(least)} to ${of(most)} %)`;
}

/** A way in the menu, with what it costs while the menu is open. */
function WayItem({ way, disabled }: { way: Way; disabled: boolean }) {
  const patient = usePatient();
  const { answer, asking } = useAsk('recording', patient && !disabled ? { patient, to: way.to } : null);
  const needed = neededGroups(way.to).length;
  return (
    <MenuItem
      disabled={disabled}
      className="!block"
      onSelect={() => {
        const fault = way.make();
        if (fault) toast.error(fault);
        else useDesk.getState().set({ a: { kind: 'live' }, alone: [] });
      }}
    >
      <span className="block">{way.words}</span>
      <span className="num block text-[11px] opacity-75">
        {disabled
          ? `${needed} light groups, a film keeps ${MOST_GROUPS}`
          : answer
            ? costWords(answer)
            : asking
              ? 'measuring what it costs'
              : ''}
      </span>
    </MenuItem>
  );
}

/** How the light of a group is recorded, and what it would cost to do it otherwise; nothing where there is no other way. */
export function RowMenu({ group, off }: { group: string; off: boolean }) {
  const document = useDocument();
  const ways = waysOf(document, group);
  const rays = useLive((s) => s.status?.rays ?? null);
  const recipe = useRecipe((s) => s.recipe);
  if (ways.length === 0 || !recipe) return null;
  const { width, height } = frameOf(recipe).region;
  const pixels = width * height;
  const groups = lightGroups(document);
  const own = groups.filter((g) => withOuter(g).includes(group));
  // Its part, and both halves of it.
  const takes = own.length * 9 * pixels * Float32Array.BYTES_PER_ELEMENT;
  const raysOf = own.reduce((sum, g) => sum + (rays?.shadowByGroup[g] ?? 0), 0);
  return (
    <Menu
      align="end"
      width="w-72"
      trigger={
        <button
          type="button"
          aria-label={`how ${words(group)} is recorded`}
          className="shrink-0 px-0.5 text-dim hover:text-ink"
        >
          <Ellipsis size={13} />
        </button>
      }
    >
      <MenuHeading>record</MenuHeading>
      {ways.map((way) => (
        <WayItem
          key={way.words}
          way={way}
          disabled={neededGroups(way.to).length > MOST_GROUPS && neededGroups(way.to).length > groups.length}
        />
      ))}
      <MenuLine />
      <p className="px-2 pb-1 text-[11.5px] text-soft">
        {off ? 'It is off in this mix, and recorded all the same: ' : 'It takes '}
        <span className="num">{bytes(takes)}</span> of a film
        {rays && rays.shadow > 0 && (
          <>
            {' '}
            and <span className="num">{share(raysOf / rays.shadow)}</span> of the rays to lights
          </>
        )}
        .
      </p>
      <p className="px-2 pb-1 text-[11.5px] text-soft">
        The picture stays as it is; it is traced anew, and what is told apart then has a gain and a colour of its own.
      </p>
    </Menu>
  );
}
