import { useEffect, useMemo, useRef } from 'react';
import { toast } from 'sonner';
import type { Mask } from '@/core/outputs';
import { pickableOf, pickedBy } from '@/core/scene';
import { counted } from '@/core/words';
import { Word } from '../../parts/controls';
import { useDocument } from '../../state/scene-now';
import { pickInto, rampMask, removeMask, renameMask, unpick } from './masks';
import { PickEditor } from './pick-editor';
import { RampRow } from './ramp-row';

const tellFault = (fault: string | null) => fault && toast.error(fault);

/** What a mask picks: taken in by clicking in the picture, or by typing names and patterns. */
export function MaskEditor({ mask }: { mask: Mask }) {
  const document = useDocument();
  const from = useMemo(() => pickableOf(document), [document]);
  const root = useRef<HTMLDivElement>(null);
  const picks = mask.of.length;
  // The list is longer than the panel, and this grows with what is picked.
  useEffect(() => {
    // What it returns is no clean-up: newer browsers give a promise.
    if (picks >= 0) root.current?.scrollIntoView?.({ block: 'nearest' });
  }, [picks]);
  const objects = pickedBy(mask.of, from).names.length;
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
        <span className="num flex-1 text-[11px] text-dim">
          {mask.ramp && picks === 0 ? 'all of the picture' : counted(objects, 'object')}
        </span>
        <Word className="text-[11px]" onClick={() => tellFault(removeMask(mask))}>
          take away
        </Word>
      </div>
      <PickEditor
        label="add to the mask"
        picks={mask.of}
        onIn={(p) => tellFault(pickInto(mask, [p]))}
        onOut={(p) => tellFault(unpick(mask, p))}
      />
      <RampRow
        mask={mask}
        onChange={(ramp) => {
          const fault = rampMask(mask, ramp);
          tellFault(fault);
          return fault;
        }}
      />
    </div>
  );
}
