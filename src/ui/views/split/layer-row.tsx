'use client';

import { Eye } from 'lucide-react';
import { Checkbox } from 'radix-ui';
import type { Trial } from '@/contract/trial';
import { layerInfo } from '@/core/film';
import { two } from '@/core/words';
import { useDesk } from '../../state/desk-store';

/** A layer: whether it is written, its words that show it, and one figure of it. */
export function LayerRow({
  name,
  chosen,
  shown,
  absentFrom,
  figure,
  still,
  onToggle,
}: {
  name: string;
  chosen: boolean;
  shown: boolean;
  /** The trial whose film has not got it; null where it is there, or comes with the live picture. */
  absentFrom: Trial | null;
  /** Its share of the light, or its noise; null where there is none. */
  figure: string | null;
  /** Where it is as a PNG; null for what only OpenEXR holds. */
  still: string | null;
  onToggle: () => void;
}) {
  const { words } = layerInfo(name);
  const show = () => {
    const { set } = useDesk.getState();
    // A film that was rendered without it cannot show it: the live picture does.
    set({ layer: name, overlay: 'none', range: null, ...(absentFrom ? { a: { kind: 'live' } } : {}) });
  };
  return (
    <div className={`flex h-[25px] items-center gap-2 px-3.5 ${shown ? 'bg-fill text-pit' : 'hover:bg-raised'}`}>
      <Checkbox.Root
        aria-label={`write ${words}`}
        checked={chosen}
        onCheckedChange={onToggle}
        className={`flex h-3.5 w-3.5 items-center justify-center rounded-sm border ${shown ? 'border-pit' : 'border-dim'}`}
      >
        <Checkbox.Indicator className={`block h-2 w-2 ${shown ? 'bg-pit' : 'bg-fill'}`} />
      </Checkbox.Root>
      <button
        type="button"
        aria-pressed={shown}
        aria-label={words}
        className={`flex min-w-0 flex-1 items-center gap-2 text-left ${absentFrom ? 'text-dim' : ''}`}
        onClick={show}
      >
        <span className="flex-1">{words}</span>
        {shown && <Eye size={13} aria-label="shown in the picture" />}
      </button>
      {shown && still && (
        <a href={still} download className="text-[11px] underline" aria-label={`${words} as PNG`}>
          PNG
        </a>
      )}
      {absentFrom && chosen && <span className="num text-[11px] text-soft">not in {two(absentFrom.number)}</span>}
      {figure !== null && <span className={`num text-[11px] ${shown ? 'text-pit' : 'text-dim'}`}>{figure}</span>}
    </div>
  );
}
