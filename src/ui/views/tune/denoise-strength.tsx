import { Slider } from 'radix-ui';
import type { ReactNode } from 'react';
import type { Strengths } from '@/core/denoise';
import { words } from '@/core/words';
import { NumberField } from '../../fields/number-field';
import { Tip, Word } from '../../parts/controls';
import { takeStrengths } from '../../state/denoising';
import { useWhole } from '../../state/slots';
import type { ListedTrial } from '../../state/trials-store';

/** How much of what denoising made of a trial is taken: of everything, and of light groups with a strength of their own. */
export function Strength({ trial }: { trial: ListedTrial }) {
  const whole = useWhole(trial);
  const { strengths } = trial.denoised!;
  const groups = whole?.spec?.groups ?? [];
  const set = (next: Strengths) => takeStrengths(trial.id, next);
  const own = Object.entries(strengths.groups);
  return (
    <div className="flex flex-col gap-0.5">
      <Amount
        label="Strength"
        value={strengths.all}
        onChange={(all) => set({ ...strengths, all })}
        beside={
          <Choose
            groups={groups.filter((g) => !(g in strengths.groups))}
            onChoose={(g) => set({ ...strengths, groups: { ...strengths.groups, [g]: strengths.all } })}
          />
        }
      />
      {own.map(([group, value]) => (
        <Amount
          key={group}
          label={words(group)}
          value={value}
          onChange={(v) => set({ ...strengths, groups: { ...strengths.groups, [group]: v } })}
          beside={
            <Word
              onClick={() => {
                const { [group]: _, ...rest } = strengths.groups;
                set({ ...strengths, groups: rest });
              }}
            >
              as all
            </Word>
          }
        />
      ))}
    </div>
  );
}

/** Gives a light group a strength of its own. */
function Choose({ groups, onChoose }: { groups: string[]; onChoose: (group: string) => void }) {
  if (groups.length === 0) return null;
  return (
    <select
      aria-label="a strength of its own for"
      className="w-[84px] bg-pit text-[11.5px] text-soft"
      value=""
      onChange={(e) => onChoose(e.target.value)}
    >
      <option value="">by group</option>
      {groups.map((g) => (
        <option key={g} value={g}>
          {words(g)}
        </option>
      ))}
    </select>
  );
}

function Amount({
  label,
  value,
  onChange,
  beside,
}: {
  label: string;
  value: number;
  onChange: (v: number) => void;
  beside: ReactNode;
}) {
  return (
    <div className="grid h-[22px] grid-cols-[80px_1fr_64px_88px] items-center gap-2">
      <Tip text="How much of what denoising made is taken, in linear light. Nothing is filtered again; at 0 the film is as it was rendered.">
        <span className="overflow-hidden whitespace-nowrap">{label}</span>
      </Tip>
      <Slider.Root
        className="relative flex h-5 touch-none items-center select-none"
        min={0}
        max={100}
        step={1}
        value={[Math.round(value * 100)]}
        onValueChange={([v]) => onChange(v / 100)}
        onDoubleClick={() => onChange(1)}
      >
        <Slider.Track className="relative h-px grow bg-[#5a5a5a]" />
        <Slider.Thumb aria-label={`${label} of denoising`} className="block h-3.5 w-2 rounded-sm bg-fill" />
      </Slider.Root>
      <NumberField
        label={`${label} in percent`}
        value={Math.round(value * 100)}
        step={5}
        suffix="%"
        width="w-[60px]"
        onChange={(v) => {
          if (v === null || v < 0 || v > 100) return 'between 0 and 100 %';
          onChange(v / 100);
          return null;
        }}
      />
      {beside}
    </div>
  );
}
