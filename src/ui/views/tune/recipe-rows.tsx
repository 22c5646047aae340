'use client';

import type { ReactNode } from 'react';
import {
  frameOf,
  isPreset,
  PRESETS,
  type Recipe,
  SETTINGS,
  type SettingSection,
  settingAt,
  settingRows,
} from '@/core/recipe';
import { share } from '@/core/words';
import { Choice } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { Toggle } from '../../fields/toggle';
import { GrainBar, Tip, ToneBar } from '../../parts/controls';
import { type Figures, useGoverning } from '../../state/figures';
import { useRecipe } from '../../state/recipe-store';
import { idleWords } from './consequences';
import { noiseShareOf, timeShareOf } from './governs';
import { useLookedAt } from './outlook-strip';

/** What stands at the right of a section's heading. */
const BESIDE: Partial<Record<SettingSection, ReactNode>> = {
  Sampling: (
    <span className="grid w-[140px] grid-cols-2 gap-2 text-[11px] text-dim">
      <Tip text="Share of the tracing time in A that the rays of this row took: counted rays by what each kind was measured to cost.">
        <span>time</span>
      </Tip>
      <Tip text="Share of the noise (variance) in A that this row governs, measured sample by sample. Shares sum to 100 %; small negative ones are real.">
        <span>noise</span>
      </Tip>
    </span>
  ),
  'Outlier limits': <span className="text-[11px] text-dim">stops above white</span>,
};
/** The unit stands in the section's heading. */
const UNIT_ABOVE: SettingSection = 'Outlier limits';
const SECTIONS: SettingSection[] = ['Sampling', 'Ray depth', 'Outlier limits', 'Denoise', 'Picture'];
/** Two numbers of one row have to share it. */
const NARROW: Record<string, string> = { 'sampling.cameraMin': 'w-[52px]', 'sampling.cameraMax': 'w-[56px]' };
/** What a control is called where its row is called something else. */
const CALLED: Record<string, string> = { 'sampling.cameraMax': 'Most camera samples' };
/** A setting that shares a row and stands at its left. */
const FIRST = 'sampling.cameraMin';

/** The recipe, row by row, each with the share of time and of noise that it governs. */
export function Rows() {
  const recipe = useRecipe((s) => s.recipe)!;
  const { figures } = useGoverning();
  return SECTIONS.map((section) => (
    <section key={section}>
      <div className="flex items-baseline pt-2 pr-3.5 pb-1 pl-3.5">
        <h3 className="flex-1 font-semibold">{section}</h3>
        {BESIDE[section]}
      </div>
      {settingRows(section).map((path) => (
        <Row key={path} path={path} recipe={recipe} figures={figures} />
      ))}
    </section>
  ));
}

/** Whether a setting differs from the recipe that it comes from. */
function isChanged(recipe: Recipe, path: string): boolean {
  const preset = isPreset(recipe.name) ? PRESETS[recipe.name] : null;
  return preset !== null && JSON.stringify(settingAt(preset, path)) !== JSON.stringify(settingAt(recipe, path));
}

function Row({ path, recipe, figures }: { path: string; recipe: Recipe; figures: Figures }) {
  const { label, tip } = SETTINGS[path];
  const look = useLookedAt((s) => s.set);
  const besides = Object.keys(SETTINGS).filter((p) => SETTINGS[p].beside === path);
  const paths = besides.includes(FIRST) ? [...besides, path] : [path, ...besides];
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only tells the strip below which row is looked at
    <div
      onPointerEnter={() => look(path)}
      onPointerLeave={() => look(null)}
      onFocus={() => look(path)}
      className="grid h-[26px] grid-cols-[1fr_auto_30px_28px_30px_28px] items-center gap-x-2 pr-3 pl-4 hover:bg-raised"
    >
      <Tip text={tip} side="left">
        <span className="relative -ml-2.5 pl-2.5 whitespace-nowrap">
          {isChanged(recipe, path) && (
            <span
              role="img"
              aria-label="differs from the preset"
              className="absolute top-[7px] left-0.5 block h-1 w-1 rounded-full bg-fill"
            />
          )}
          {label}
        </span>
      </Tip>
      <span className="flex gap-1">
        {path === 'size.scale' && (
          <span className="num self-center pr-1 text-dim">{`${frameOf(recipe).width}×${frameOf(recipe).height}`}</span>
        )}
        {paths.map((p) => (
          <Control key={p} path={p} value={settingAt(recipe, p)} />
        ))}
      </span>
      <Governed path={path} value={settingAt(recipe, path)} figures={figures} />
    </div>
  );
}

/** The control of a setting, as the table has it. */
function Control({ path, value }: { path: string; value: unknown }) {
  const set = useRecipe((s) => s.set);
  const { control, unit, section } = SETTINGS[path];
  const label = CALLED[path] ?? SETTINGS[path].label;
  switch (control.kind) {
    case 'toggle':
      return <Toggle label={label} on={value === true} onChange={(v) => set(path, v)} />;
    case 'choice':
      return (
        <Choice
          label={label}
          value={String(value)}
          options={Object.entries(control.options).map(([v, words]) => ({ value: v, label: words }))}
          onChange={(v) => set(path, v)}
        />
      );
    case 'number':
      return (
        <NumberField
          label={label}
          value={control.off === 'zero' && value === 0 ? null : (value as number | null)}
          onChange={(v) => set(path, control.off === 'zero' ? (v ?? 0) : v)}
          off={control.off ? 'off' : undefined}
          step={control.step}
          suffix={section === UNIT_ABOVE ? undefined : unit || undefined}
          width={NARROW[path]}
        />
      );
    case 'elsewhere':
      return null;
  }
}

/** Shares of time and noise that a row governs, or that this picture has none of what it is about. */
function Governed({ path, value, figures }: { path: string; value: unknown; figures: Figures }) {
  const idle = idleWords(path, value, figures);
  if (idle) return <span className="col-span-4 text-right text-[11px] whitespace-nowrap text-dim">{idle}</span>;
  if (!SETTINGS[path].governs) return <span className="col-span-4" />;
  const time = timeShareOf(path, figures);
  const noise = noiseShareOf(path, figures.shares);
  return (
    <>
      <ToneBar value={time} label={`${share(time)} of the time`} />
      <span className="num text-right text-[11px] text-dim">{share(time)}</span>
      <GrainBar value={noise} label={`${share(noise)} of the noise`} />
      <span className="num text-right text-[11px] text-dim">{share(noise)}</span>
    </>
  );
}
