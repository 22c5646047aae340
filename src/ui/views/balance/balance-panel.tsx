'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { Slider } from 'radix-ui';
import { useMemo, useState } from 'react';
import { HexColorPicker } from 'react-colorful';
import { finished, type Trial } from '@/contract/trial';
import { type Balance, type GroupBalance, NEUTRAL } from '@/core/film';
import { hexToRgb, kelvinToRgb, luminance, rgbToHex } from '@/core/image';
import type { RelitMeasure } from '@/render/questions/relit';
import { NumberField } from '../../fields/number-field';
import { TextField } from '../../fields/text-field';
import { Plain, Primary, Stat, Tip, Word } from '../../parts/controls';
import { Popover } from '../../parts/popover';
import { api } from '../../state/api';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { percent, two, words } from '../../state/format';
import { useSceneExposure } from '../../state/scene-now';
import { useGroups, useSlotFilm, useWholeSlot } from '../../state/slots';
import { tell } from '../../state/tell';

const RANGE = 6;
const RELIT_AFTER_MS = 120;
const NO_BALANCE: Balance = {};

/** Noise of the relit picture, measured anew a moment after the balance has changed. */
function useRelitNoise(trial: Trial, balance: Balance): RelitMeasure | null {
  const groups = useGroups();
  const exposure = useSceneExposure();
  const of = useSlotFilm('A');
  const asked = of && { of, groups, balance, exposure };
  return useAsk('relit', asked, { of: trial.state, afterMs: RELIT_AFTER_MS, keep: true }).answer;
}

/** Balance: relight a finished film by its light groups, and keep moods. */
export function BalancePanel() {
  const trialA = useWholeSlot('A');
  const groups = useGroups();
  const trial = trialA && finished(trialA) ? trialA : null;
  if (!trial?.recipe.film.groups) {
    return (
      <div className="flex flex-1 flex-col justify-center gap-2 px-8 text-center text-soft">
        <p className="font-semibold text-ink">
          {trial ? 'This film has no light groups' : 'Choose a finished trial for A'}
        </p>
        <p>
          {trial
            ? 'Log a trial whose recipe keeps groups.'
            : `Its ${groups.length} light groups can then be brightened, coloured and switched without rendering again. Log one with T, or pick one in the logbook.`}
        </p>
      </div>
    );
  }
  return <Balancer key={trial.id} trial={trial} />;
}

function Balancer({ trial }: { trial: Trial }) {
  const groups = useGroups();
  const desk = useDesk();
  const balance = desk.balances[trial.id] ?? NO_BALANCE;
  const measure = useRelitNoise(trial, balance);
  const name = desk.moodNames[trial.id] ?? '';
  const neutral = groups.every((g) => JSON.stringify(balance[g] ?? NEUTRAL) === JSON.stringify(NEUTRAL));
  return (
    <>
      <div className="flex border-b border-line">
        <Stat
          title="Noise as balanced"
          value={<span data-testid="relit-noise">{percent(measure?.noise?.rms)}</span>}
          beside={`of ${desk.target}`}
          tip="Noise of the picture as it is balanced now, formed from both halves of the film and measured like any other. Brightening a noisy group brings its noise forward."
        />
        <Stat title="As rendered" value={percent(trial.noise?.rms)} tip="Noise of the trial's own picture." />
        <Stat
          title="Mood"
          value={<span className="font-sans text-[14px]">{name || (neutral ? 'as rendered' : 'unsaved')}</span>}
          tip="The mood in use. Moods are kept with the trial."
        />
      </div>
      <Moods trial={trial} balance={balance} neutral={neutral} />
      <div className="min-h-0 flex-1 overflow-y-auto py-2" data-testid="groups">
        {groups.map((g) => (
          <GroupRow
            key={g}
            trial={trial}
            group={g}
            value={balance[g] ?? NEUTRAL}
            noise={measure?.byGroup[g]?.rms ?? null}
          />
        ))}
      </div>
      <div className="flex items-center gap-2 border-t border-line px-3.5 py-2.5">
        <Plain
          disabled={neutral}
          onClick={() =>
            desk.set({
              balances: { ...desk.balances, [trial.id]: {} },
              moodNames: { ...desk.moodNames, [trial.id]: '' },
            })
          }
        >
          As rendered
        </Plain>
        <span className="flex-1" />
        <span className="num text-dim">{measure ? `measured in ${measure.ms.toFixed(0)} ms` : ''}</span>
      </div>
    </>
  );
}

function Moods({ trial, balance, neutral }: { trial: Trial; balance: Balance; neutral: boolean }) {
  const desk = useDesk();
  const queries = useQueryClient();
  const moods = useQuery({ queryKey: ['moods', trial.id], queryFn: () => api.moods(trial.id) });
  const [name, setName] = useState('');
  const [open, setOpen] = useState(false);
  const again = () => queries.invalidateQueries({ queryKey: ['moods', trial.id] });
  const use = (n: string, b: Balance) =>
    desk.set({ balances: { ...desk.balances, [trial.id]: b }, moodNames: { ...desk.moodNames, [trial.id]: n } });
  const keep = async () => {
    try {
      const { mood } = await api.keepMood(trial.id, name, balance);
      use(mood.name, mood.balance);
      setName('');
      setOpen(false);
      await again();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <div
      className="flex min-h-9 flex-wrap items-center gap-x-1 gap-y-0.5 border-b border-line px-3 py-1"
      data-testid="moods"
    >
      <span className="pr-1 font-semibold">Moods</span>
      {moods.data?.moods.length === 0 && <span className="text-dim">none kept for {two(trial.number)} yet</span>}
      {moods.data?.moods.map((m) => (
        <span key={m.id} className="group flex items-center">
          <Word on={desk.moodNames[trial.id] === m.name} onClick={() => use(m.name, m.balance)}>
            {m.name}
          </Word>
          <button
            type="button"
            aria-label={`forget mood ${m.name}`}
            className="p-0.5 text-dim opacity-0 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100"
            onClick={() => api.removeMood(trial.id, m.name).then(again, tell)}
          >
            <X size={11} />
          </button>
        </span>
      ))}
      <span className="flex-1" />
      <Popover
        align="end"
        width="w-60"
        open={open}
        onOpenChange={setOpen}
        trigger={<Word disabled={neutral}>+ keep</Word>}
      >
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void keep();
          }}
        >
          <p className="text-dim">Name of the mood</p>
          <TextField
            label="Name of the mood"
            value={name}
            most={60}
            onChange={setName}
            placeholder="Night watch"
            className="mt-1 mb-2 w-full"
          />
          <Primary type="submit" disabled={!name.trim()}>
            Keep mood
          </Primary>
        </form>
      </Popover>
    </div>
  );
}

function GroupRow({
  trial,
  group,
  value,
  noise,
}: {
  trial: Trial;
  group: string;
  value: GroupBalance;
  noise: number | null;
}) {
  const setBalance = useDesk((s) => s.setBalance);
  const set = (change: Partial<GroupBalance>) => setBalance(trial.id, group, change);
  return (
    <div className={`px-3.5 py-2 ${value.on ? '' : 'opacity-55'}`} data-testid={`group-${group}`}>
      <div className="flex items-center gap-1.5">
        <span className="flex-1 truncate font-semibold">{words(group)}</span>
        <Swatch label={words(group)} color={value.color} onChange={(color) => set({ color })} />
        <Word on={value.solo} onClick={() => set({ solo: !value.solo })}>
          solo
        </Word>
        <Word on={value.on} onClick={() => set({ on: !value.on })}>
          {value.on ? 'on' : 'off'}
        </Word>
      </div>
      <div className="mt-1 flex items-center gap-2.5">
        <Slider.Root
          className="relative flex h-5 flex-1 touch-none items-center select-none"
          min={-RANGE}
          max={RANGE}
          step={0.1}
          value={[Math.max(-RANGE, Math.min(RANGE, value.stops))]}
          onValueChange={([stops]) => set({ stops })}
          onDoubleClick={() => set({ stops: 0 })}
        >
          <Slider.Track className="relative h-px grow bg-[#5a5a5a]">
            <span className="absolute top-[-4px] left-1/2 block h-[9px] w-px bg-dim" />
          </Slider.Track>
          <Slider.Thumb aria-label={`${words(group)} gain in stops`} className="block h-3.5 w-2 rounded-sm bg-fill" />
        </Slider.Root>
        <NumberField
          label={`${words(group)} stops`}
          value={Math.round(value.stops * 100) / 100}
          step={0.5}
          width="w-[72px]"
          onChange={(v) => {
            if (v === null || Math.abs(v) > 20) return 'between −20 and 20 stops';
            set({ stops: v });
            return null;
          }}
        />
        <Tip text="Noise this group brings to the picture as balanced now.">
          <span className="num w-[58px] text-right text-dim">{value.on ? percent(noise) : '–'}</span>
        </Tip>
      </div>
    </div>
  );
}

const KELVINS = [2000, 2800, 3200, 4300, 5600, 6500, 9500];

function Swatch({
  label,
  color,
  onChange,
}: {
  label: string;
  color: [number, number, number];
  onChange: (c: [number, number, number]) => void;
}) {
  const hex = rgbToHex(color);
  // A tint keeps the group's luminance, so that brightness stays the gain's alone.
  const tint = (rgb: [number, number, number]) => {
    const y = Math.max(luminance(...rgb), 1e-4);
    onChange(rgb.map((c) => c / y) as [number, number, number]);
  };
  const white = useMemo(() => kelvinToRgb(6500), []);
  return (
    <Popover
      side="left"
      trigger={
        <button
          type="button"
          aria-label={`colour of ${label}`}
          className="h-4 w-4 rounded-sm border border-line"
          style={{ background: hex }}
        />
      }
    >
      <HexColorPicker color={hex} onChange={(h) => tint(hexToRgb(h))} />
      <div className="mt-2 flex max-w-[200px] flex-wrap gap-0.5">
        {KELVINS.map((k) => (
          <Word
            key={k}
            className="num text-[11px]"
            onClick={() => {
              const rgb = kelvinToRgb(k);
              tint(rgb.map((c, i) => c / white[i]) as [number, number, number]);
            }}
          >
            {k} K
          </Word>
        ))}
        <Word className="text-[11px]" onClick={() => onChange([1, 1, 1])}>
          own
        </Word>
      </div>
    </Popover>
  );
}
