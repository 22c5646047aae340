'use client';

import type { PartsIn } from '@/core/comp';
import { FAMILIES, layerInfo } from '@/core/film';
import { percent, share } from '@/core/words';
import { Stat } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import type { Stacked } from '../../state/stacking';
import { useStackFigures } from './use-figures';

const names = (layers: readonly string[]): string => layers.map((n) => layerInfo(n).words).join(', ');

/** Whether all parts of the light are in, once, in words. */
function partsWords(parts: PartsIn | null, lacks: number | null): { short: string; long: string } {
  if (!parts) return { short: '–', long: 'The stack is not made of parts that sum to the picture.' };
  const of = FAMILIES[parts.family].title.toLowerCase();
  if (parts.missing.length > 0)
    return {
      short: `${parts.missing.length} missing`,
      long: `Of the ${of}, ${names(parts.missing)} ${parts.missing.length === 1 ? 'is' : 'are'} not in the stack.`,
    };
  if (parts.twice.length > 0) return { short: 'twice', long: `${names(parts.twice)} is in the stack more than once.` };
  const off = lacks === null ? '' : ` They differ from the picture by ${share(lacks)} of its light.`;
  const changed = parts.changed.length > 0 ? ` Changed on the way: ${names(parts.changed)}.` : '';
  return { short: 'all, once', long: `All ${of} are in the stack, each once.${off}${changed}` };
}

/** What the stack comes to, measured: parts, noise, values that the display cuts. */
export function CompHead({ stacked }: { stacked: Stacked }) {
  const { parts, quick, noise, isMeasuring } = useStackFigures(stacked);
  const target = useDesk((s) => s.target);
  const said = partsWords(parts, quick?.lacks ?? null);
  const isHeld = useDesk((s) => s.asRendered);
  return (
    <div className="relative">
      <div className="flex border-b border-line">
        <Stat
          title="Parts"
          value={
            <span className="text-[14px]" data-testid="parts-in">
              {said.short}
            </span>
          }
          tip={said.long}
        />
        <Stat
          title="Noise of the result"
          value={<span data-testid="stack-noise">{percent(noise?.rms)}</span>}
          beside={isMeasuring && !noise ? 'measuring' : `of ${target}`}
          tip="Both halves of the film led through the whole stack, and compared as displayed. Layers that are kept without halves have none."
        />
        <Stat
          title="Beyond white"
          value={<span data-testid="stack-beyond">{share(quick?.beyond)}</span>}
          beside={quick && quick.below > 0 ? `${share(quick.below)} below 0` : undefined}
          tip="Pixels of the result with a value beyond display white, which a file of 8 or 16 bits cuts; OpenEXR keeps them."
        />
      </div>
      {parts && said.short !== 'all, once' && (
        <p className="border-b border-line px-3.5 py-1 text-[11.5px] text-soft" role="status">
          {said.long}
        </p>
      )}
      {isHeld && <p className="absolute inset-0 bg-fill px-3.5 py-2.5 text-pit">as rendered, while H is held</p>}
    </div>
  );
}
