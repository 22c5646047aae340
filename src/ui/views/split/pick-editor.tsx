import { X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { emptyPicks, pickableOf, type ThingPick } from '@/core/scene';
import { useDocument } from '../../state/scene-now';

/** What typed text picks: a set, an object or a material of that name, or else all objects whose names are like it. */
function typedPick(text: string, from: ReturnType<typeof pickableOf>): ThingPick {
  if (Object.hasOwn(from.sets, text)) return { kind: 'set', name: text };
  if (from.objects.includes(text)) return { kind: 'object', name: text };
  if (Object.values(from.materials).includes(text)) return { kind: 'material', name: text };
  return { kind: 'like', name: text };
}

/** Things that are picked, each to be taken out, and a field that takes names and patterns in. */
export function PickEditor({
  label,
  picks,
  onIn,
  onOut,
  onEnd,
}: {
  /** What the field does, for those who do not see it. */
  label: string;
  picks: readonly ThingPick[];
  onIn: (pick: ThingPick) => void;
  onOut: (pick: ThingPick) => void;
  /** What Esc in the field ends. */
  onEnd?: () => void;
}) {
  const document = useDocument();
  const from = useMemo(() => pickableOf(document), [document]);
  const [text, setText] = useState('');
  const empty = emptyPicks(picks, from);
  const known = useMemo(
    () => [...new Set([...Object.keys(from.sets), ...from.objects, ...Object.values(from.materials)])].slice(0, 500),
    [from],
  );
  const take = () => {
    const wanted = text.trim();
    if (wanted === '') return;
    const pick = typedPick(wanted, from);
    if (emptyPicks([pick], from).length > 0) {
      toast.error(`nothing is called ${wanted}; * stands for any letters, ? for one`);
      return;
    }
    onIn(pick);
    setText('');
  };
  return (
    <>
      <ul className="mb-1 flex max-h-24 flex-wrap gap-1 overflow-y-auto">
        {picks.map((p) => (
          <li
            key={`${p.kind} ${p.name}`}
            className="flex items-center gap-1 rounded-sm border border-line bg-pit px-1.5 text-[11.5px]"
          >
            {p.kind !== 'object' && <span className="text-dim">{p.kind}</span>}
            {p.name}
            {empty.includes(p) && <span className="text-soft">· not in this scene</span>}
            <button type="button" aria-label={`take out ${p.name}`} onClick={() => onOut(p)}>
              <X size={11} />
            </button>
          </li>
        ))}
      </ul>
      <input
        aria-label={label}
        list="pickable"
        placeholder="click in the picture, or type: a name, rope*, …"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') take();
          if (e.key === 'Escape') onEnd?.();
        }}
        className="w-full rounded-sm border border-line bg-pit px-1.5 py-0.5 outline-none focus:border-soft"
      />
      <datalist id="pickable">
        {known.map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
    </>
  );
}
