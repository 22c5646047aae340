import { X } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { emptyPicks, type Mask, type MaskPick, maskableOf, pickedBy } from '@/core/outputs';
import { Word } from '../../parts/controls';
import { counted } from '../../state/format';
import { useDocument } from '../../state/scene-now';
import { pickInto, removeMask, renameMask, unpick } from './masks';

const tellFault = (fault: string | null) => fault && toast.error(fault);

/** What typed text picks: a set, an object or a material of that name, or else all objects whose names are like it. */
function typedPick(text: string, from: ReturnType<typeof maskableOf>): MaskPick {
  if (Object.hasOwn(from.sets, text)) return { kind: 'set', name: text };
  if (from.objects.includes(text)) return { kind: 'object', name: text };
  if (Object.values(from.materials).includes(text)) return { kind: 'material', name: text };
  return { kind: 'like', name: text };
}

/** What a mask picks: taken in by clicking in the picture, or by typing names and patterns. */
export function MaskEditor({ mask }: { mask: Mask }) {
  const document = useDocument();
  const from = useMemo(() => maskableOf(document), [document]);
  const [text, setText] = useState('');
  const root = useRef<HTMLDivElement>(null);
  const picks = mask.of.length;
  // The list is longer than the panel, and this grows with what is picked.
  useEffect(() => {
    // What it returns is no clean-up: newer browsers give a promise.
    if (picks >= 0) root.current?.scrollIntoView?.({ block: 'nearest' });
  }, [picks]);
  const empty = emptyPicks(mask, from);
  const objects = pickedBy(mask, from).names.length;
  const known = useMemo(
    () => [...new Set([...Object.keys(from.sets), ...from.objects, ...Object.values(from.materials)])].slice(0, 500),
    [from],
  );
  const take = () => {
    const wanted = text.trim();
    if (wanted === '') return;
    const pick = typedPick(wanted, from);
    if (emptyPicks({ of: [pick] }, from).length > 0) {
      toast.error(`nothing is called ${wanted}; * stands for any letters, ? for one`);
      return;
    }
    tellFault(pickInto(mask, [pick]));
    setText('');
  };
  return (
    <div ref={root} className="border-b border-line bg-raised px-3.5 py-1.5" data-testid="mask-editor">
      <div className="mb-1 flex items-center gap-1.5">
        <input
          key={mask.name}
          aria-label="name of the mask"
          defaultValue={mask.name}
          className="w-28 rounded-sm border border-line bg-pit px-1.5 py-0.5 outline-none focus:border-soft"
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') e.currentTarget.blur();
          }}
          onBlur={(e) => tellFault(renameMask(mask, e.target.value.trim() || mask.name))}
        />
        <span className="num flex-1 text-[11px] text-dim">{counted(objects, 'object')}</span>
        <Word className="text-[11px]" onClick={() => tellFault(removeMask(mask))}>
          take away
        </Word>
      </div>
      <ul className="mb-1 flex max-h-24 flex-wrap gap-1 overflow-y-auto">
        {mask.of.map((p) => (
          <li
            key={`${p.kind} ${p.name}`}
            className="flex items-center gap-1 rounded-sm border border-line bg-pit px-1.5 text-[11.5px]"
          >
            {p.kind !== 'object' && <span className="text-dim">{p.kind}</span>}
            {p.name}
            {empty.includes(p) && <span className="text-soft">· not in this scene</span>}
            <button type="button" aria-label={`take out ${p.name}`} onClick={() => tellFault(unpick(mask, p))}>
              <X size={11} />
            </button>
          </li>
        ))}
      </ul>
      <input
        aria-label="add to the mask"
        list="maskable"
        placeholder="click in the picture, or type: a name, rope*, …"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') take();
        }}
        className="w-full rounded-sm border border-line bg-pit px-1.5 py-0.5 outline-none focus:border-soft"
      />
      <datalist id="maskable">
        {known.map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
    </div>
  );
}
