'use client';

import { ArrowLeftRight } from 'lucide-react';
import { isRampable, layerInfo, rampEnds } from '@/core/film';
import { type Mask, possibleLayers } from '@/core/outputs';
import { Choice, type ChoiceOption } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { Tip } from '../../parts/controls';
import { useRecipe } from '../../state/recipe-store';

const NONE = 'no ramp';

/** Channels of data that a mask may be led through, by their layers. */
function options(names: readonly string[]): ChoiceOption[] {
  return names.filter(isRampable).flatMap((name) => {
    const { words, channels } = layerInfo(name);
    return channels.map((c) => ({
      value: `${name}.${c}`,
      label: channels.length === 1 ? words : `${words} ${c}`,
      ...(channels.length === 1 ? {} : { under: words }),
    }));
  });
}

/** The data by which a mask rises from nothing to all, and where it does. */
export function RampRow({ mask, onChange }: { mask: Mask; onChange: (ramp: Mask['ramp']) => string | null }) {
  const film = useRecipe((s) => s.recipe!.film);
  const { ramp } = mask;
  const choose = (value: string) => {
    if (value === NONE) return void onChange(null);
    const dot = value.lastIndexOf('.');
    const [layer, channel] = [value.slice(0, dot), value.slice(dot + 1)];
    onChange({ layer, channel, ...rampEnds(layer) });
  };
  const end = (key: 'from' | 'to', words: string) => (
    <NumberField
      label={words}
      value={ramp![key]}
      step={0.1}
      width="w-[62px]"
      onChange={(v) => (v === null ? 'must be a number' : onChange({ ...ramp!, [key]: v }))}
    />
  );
  return (
    <div className="mt-1 flex items-center gap-1.5 text-[11.5px]">
      <Tip
        side="left"
        text="Data that the mask is multiplied by: nothing up to the first value, all from the second on, falling where the second is less. Without a pick it is the ramp in all of the picture."
      >
        <span className="text-dim underline decoration-dotted">ramp</span>
      </Tip>
      <Choice
        label="data of the ramp"
        width="w-40"
        value={ramp ? `${ramp.layer}.${ramp.channel}` : NONE}
        options={[NONE, ...options(possibleLayers(film, []))]}
        onChange={choose}
      />
      {ramp && (
        <>
          {end('from', 'where the ramp begins')}
          <button
            type="button"
            aria-label="turn the ramp about"
            className="text-dim hover:text-ink"
            onClick={() => onChange({ ...ramp, from: ramp.to, to: ramp.from })}
          >
            <ArrowLeftRight size={12} />
          </button>
          {end('to', 'where the ramp ends')}
          <span className="text-dim">{layerInfo(ramp.layer).unit}</span>
        </>
      )}
    </div>
  );
}
