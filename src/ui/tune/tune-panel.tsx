'use client';

import { ChevronDown, Redo2, Undo2 } from 'lucide-react';
import { DropdownMenu, Switch } from 'radix-ui';
import type { ReactNode } from 'react';
import { differences, frameOf, isPreset, PRESETS, type PresetName, type Recipe, settingAt } from '@/core/recipe';
import { GrainBar, Key, Plain, Primary, Stat, Tip, ToneBar, Word } from '../parts/controls';
import { NumberField } from '../parts/number-field';
import { useDesk } from '../state/desk-store';
import { type Figures, figuresOf, relativeEfficiency } from '../state/figures';
import { clock, count, percent, share, two, words } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { useSession } from '../state/session';
import { GOVERNS, noiseShareOf, rayShareOf, topSources } from './governs';

/** Tune: the recipe, each row with the share of rays and of noise that it governs, measured in A. */
export function TunePanel() {
  const session = useSession();
  const recipe = useRecipe((s) => s.recipe);
  const desk = useDesk();
  const f = figuresOf(session, 'A');
  if (!recipe) return null;
  const gain = relativeEfficiency(session.trialA, session.baseline);
  return (
    <>
      <div className="flex border-b border-line">
        <Stat
          title="Noise"
          value={percent(f.noise?.rms)}
          beside={`of ${desk.target}`}
          tip="Root mean square of the noise in A, in percent of display white, measured from two independent halves of its samples. Beside it the target, which is a line in the map below."
        />
        <Stat
          title="Time"
          value={clock(f.seconds)}
          beside={`of ${clock(desk.budgetSeconds)}`}
          tip="Time spent tracing A, beside the budget set in the map. A trial is traced by the worker on all its cores; the live picture uses half of yours."
        />
        <Stat
          title="Efficiency"
          value={gain ? `×${gain.toFixed(2)}` : '–'}
          beside={session.baseline ? `of ${two(session.baseline.number)}` : 'no baseline'}
          tip="1 / (noise² × time) as a multiple of the baseline's. More samples alone do not change it: a rise means a better recipe."
        />
      </div>
      <RecipeHead recipe={recipe} figures={f} />
      <div className="min-h-0 flex-1 overflow-y-auto py-1.5" data-testid="recipe-rows">
        <Rows recipe={recipe} figures={f} />
      </div>
      <Sources figures={f} />
      <Foot recipe={recipe} />
    </>
  );
}

function RecipeHead({ recipe, figures }: { recipe: Recipe; figures: Figures }) {
  const { replace, undo, redo, past, future } = useRecipe();
  const preset = isPreset(recipe.name) ? PRESETS[recipe.name] : null;
  const changed = preset ? differences(preset, recipe).filter((d) => !d.path.startsWith('region')).length : 0;
  const perSample = figures.rays && figures.rays.camera > 0 ? figures.rays.total / figures.rays.camera : null;
  return (
    <div className="flex h-9 items-center gap-1 border-b border-line pr-2 pl-3.5">
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="flex items-center gap-1 rounded-sm px-1 py-0.5 hover:bg-raised">
          <span className="font-semibold">{recipe.name}</span>
          <span className="text-dim">{changed > 0 ? `· ${changed} changed` : ''}</span>
          <ChevronDown size={12} />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className="z-40 min-w-52 rounded-sm border border-line bg-panel p-1 shadow-xl"
          >
            {(Object.keys(PRESETS) as PresetName[]).map((name) => (
              <DropdownMenu.Item
                key={name}
                className="flex cursor-pointer justify-between gap-6 rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit"
                onSelect={() => replace({ ...PRESETS[name], region: recipe.region })}
              >
                <span>{name}</span>
                <span className="num opacity-70">
                  {PRESETS[name].sampling.cameraMin}–{PRESETS[name].sampling.cameraMax} at {PRESETS[name].size.scale} %
                </span>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <span className="flex-1" />
      <Tip text="Rays a pixel: what this recipe's camera samples amount to, at the rays a sample measured in A.">
        <span className="num text-dim">
          {perSample ? `≈ ${count(perSample * recipe.sampling.cameraMax)} rays a pixel` : ''}
        </span>
      </Tip>
      <Tip text="Undo (Ctrl Z)">
        <button
          type="button"
          aria-label="undo"
          disabled={past.length === 0}
          className="p-1 text-soft hover:text-ink disabled:opacity-30"
          onClick={undo}
        >
          <Undo2 size={13} />
        </button>
      </Tip>
      <Tip text="Redo (Ctrl Shift Z)">
        <button
          type="button"
          aria-label="redo"
          disabled={future.length === 0}
          className="p-1 text-soft hover:text-ink disabled:opacity-30"
          onClick={redo}
        >
          <Redo2 size={13} />
        </button>
      </Tip>
    </div>
  );
}

function Section({ title, beside }: { title: string; beside?: ReactNode }) {
  return (
    <div className="flex items-baseline pt-2 pr-3.5 pb-1 pl-3.5">
      <h3 className="flex-1 font-semibold">{title}</h3>
      {beside}
    </div>
  );
}

interface RowProps {
  path: string;
  label: string;
  tip: string;
  recipe: Recipe;
  figures: Figures;
  children: ReactNode;
}

function Row({ path, label, tip, recipe, figures, children }: RowProps) {
  const preset = isPreset(recipe.name) ? PRESETS[recipe.name] : null;
  const changed =
    preset !== null && JSON.stringify(settingAt(preset, path)) !== JSON.stringify(settingAt(recipe, path));
  const rays = rayShareOf(path, figures.rays);
  const noise = noiseShareOf(path, figures.shares);
  return (
    <div className="grid h-[26px] grid-cols-[1fr_auto_30px_28px_30px_28px] items-center gap-x-2 pr-3 pl-4 hover:bg-raised">
      <Tip text={tip} side="left">
        <span className="relative -ml-2.5 truncate pl-2.5">
          {changed && (
            <span
              role="img"
              aria-label="differs from the preset"
              className="absolute top-[7px] left-0.5 block h-1 w-1 rounded-full bg-fill"
            />
          )}
          {label}
        </span>
      </Tip>
      <span className="flex gap-1">{children}</span>
      {GOVERNS[path] ? (
        <>
          <ToneBar value={rays} label={`${share(rays)} of the rays`} />
          <span className="num text-right text-[11px] text-dim">{share(rays)}</span>
          <GrainBar value={noise} label={`${share(noise)} of the noise`} />
          <span className="num text-right text-[11px] text-dim">{share(noise)}</span>
        </>
      ) : (
        <span className="col-span-4" />
      )}
    </div>
  );
}

interface Numeric {
  path: string;
  label: string;
  tip: string;
  step?: number;
  off?: string;
  suffix?: string;
}

const SPLITS: Numeric[] = [
  {
    path: 'sampling.splits.diffuse',
    label: 'Diffuse splits',
    tip: 'Diffuse paths followed from the first hit for each camera sample. Cures noise of light that came by way of another surface, at the cost of diffuse rays.',
  },
  {
    path: 'sampling.splits.reflection',
    label: 'Reflection splits',
    tip: 'Reflection paths followed from the first hit for each camera sample.',
  },
  {
    path: 'sampling.splits.transmission',
    label: 'Transmission splits',
    tip: 'Transmission paths followed from the first hit for each camera sample: for noise seen through glass.',
  },
  {
    path: 'sampling.lightSamples',
    label: 'Light samples',
    tip: 'Light samples where a path first meets a surface that can gather light. Cures the grain of direct light and soft shadows.',
  },
];
const DEPTHS: Numeric[] = [
  { path: 'rayDepth.all', label: 'All', tip: 'Continuation rays of all kinds together, 0–64.' },
  { path: 'rayDepth.diffuse', label: 'Diffuse', tip: 'Diffuse continuation rays. 0 = direct light only.' },
  { path: 'rayDepth.reflection', label: 'Reflection', tip: 'Reflection continuation rays.' },
  {
    path: 'rayDepth.transmission',
    label: 'Transmission',
    tip: 'Transmission continuation rays. A pane with two faces needs 2, a prism behind a prism 4; too few turn glass dark.',
  },
];
const LIMITS: Numeric[] = [
  {
    path: 'sampling.outlierLimit.first',
    label: 'First hit',
    tip: 'Brightest contribution straight from a light at the first hit, in stops above display white. Brighter ones are scaled down, equally in all parts, so the tally holds.',
    off: 'off',
    step: 0.5,
  },
  {
    path: 'sampling.outlierLimit.later',
    label: 'Later',
    tip: 'The same for light that came over further bounces: tames single hot pixels, and takes some light with them.',
    off: 'off',
    step: 0.5,
  },
];

function Rows({ recipe, figures }: { recipe: Recipe; figures: Figures }) {
  const set = useRecipe((s) => s.set);
  const number = (n: Numeric, width?: string) => (
    <NumberField
      label={n.label}
      value={settingAt(recipe, n.path) as number | null}
      onChange={(v) => set(n.path, v)}
      off={n.off}
      step={n.step}
      suffix={n.suffix}
      width={width}
    />
  );
  const row = (n: Numeric) => (
    <Row key={n.path} path={n.path} label={n.label} tip={n.tip} recipe={recipe} figures={figures}>
      {number(n)}
    </Row>
  );
  return (
    <>
      <Section
        title="Sampling"
        beside={
          <span className="grid w-[140px] grid-cols-2 gap-2 text-[11px] text-dim">
            <Tip text="Share of all rays traced in A that this row governs, counted.">
              <span>rays</span>
            </Tip>
            <Tip text="Share of the noise (variance) in A that this row governs, measured sample by sample. Shares sum to 100 %; small negative ones are real.">
              <span>noise</span>
            </Tip>
          </span>
        }
      />
      <Row
        path="sampling.cameraMax"
        label="Camera samples"
        tip="Least and most camera samples a pixel gets. They sharpen edges and everything behind them; four times as many halve the noise."
        recipe={recipe}
        figures={figures}
      >
        {number({ path: 'sampling.cameraMin', label: 'Least camera samples', tip: '' }, 'w-[52px]')}
        {number({ path: 'sampling.cameraMax', label: 'Most camera samples', tip: '' }, 'w-[56px]')}
      </Row>
      <Row
        path="sampling.stopNoise"
        label="Stop threshold"
        tip="A 16×16 cell stops between the least and the most samples once its own noise is below this, in percent of display white. Off gives every cell the most."
        recipe={recipe}
        figures={figures}
      >
        <NumberField
          label="Stop threshold"
          value={recipe.sampling.stopNoise === 0 ? null : recipe.sampling.stopNoise}
          onChange={(v) => set('sampling.stopNoise', v ?? 0)}
          off="off"
          step={0.5}
          suffix="%"
        />
      </Row>
      {SPLITS.map(row)}
      <Section title="Ray depth" />
      {DEPTHS.map(row)}
      <Row
        path="rayDepth.caustics"
        label="Caustics"
        tip="Light that reaches a diffuse surface through sharp reflection or transmission. Off removes exactly this part of the picture, and its noise."
        recipe={recipe}
        figures={figures}
      >
        <Toggle label="Caustics" on={recipe.rayDepth.caustics} onChange={(v) => set('rayDepth.caustics', v)} />
      </Row>
      <Section title="Outlier limits" beside={<span className="text-[11px] text-dim">stops above white</span>} />
      {LIMITS.map(row)}
      <Section title="Picture" />
      <Row
        path="sampling.filter.kind"
        label="Filter"
        tip="Shape and whole width of the pixel filter. Samples are drawn from it, so noise stays honest."
        recipe={recipe}
        figures={figures}
      >
        <select
          aria-label="Filter"
          className="rounded-sm border border-line bg-pit px-1.5 py-[3px]"
          value={recipe.sampling.filter.kind}
          onChange={(e) => set('sampling.filter.kind', e.target.value)}
        >
          <option value="box">box</option>
          <option value="tent">tent</option>
          <option value="gauss">gauss</option>
        </select>
        {number({ path: 'sampling.filter.widthPx', label: 'Filter width', tip: '', step: 0.25, suffix: 'px' })}
      </Row>
      <Row
        path="size.scale"
        label="Test scale"
        tip="Renders fewer pixels with the same framing, in percent."
        recipe={recipe}
        figures={figures}
      >
        <span className="num self-center pr-1 text-dim">{`${frameOf(recipe).width}×${frameOf(recipe).height}`}</span>
        {number({ path: 'size.scale', label: 'Test scale', tip: '', step: 5, suffix: '%' })}
      </Row>
      <Row
        path="camera.depthOfField"
        label="Depth of field"
        tip="Whether the lens blurs what is out of focus."
        recipe={recipe}
        figures={figures}
      >
        <Toggle
          label="Depth of field"
          on={recipe.camera.depthOfField}
          onChange={(v) => set('camera.depthOfField', v)}
        />
      </Row>
      <Row
        path="sampling.seed"
        label="Seed"
        tip="The same seed and recipe give the same film, bit for bit, on any machine."
        recipe={recipe}
        figures={figures}
      >
        {number({ path: 'sampling.seed', label: 'Seed', tip: '' })}
      </Row>
    </>
  );
}

function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <Switch.Root
      aria-label={label}
      checked={on}
      onCheckedChange={onChange}
      className="relative h-[17px] w-[30px] rounded-full border border-dim bg-pit data-[state=checked]:border-fill data-[state=checked]:bg-fill"
    >
      <Switch.Thumb className="block h-[11px] w-[11px] translate-x-[2px] rounded-full bg-dim transition-transform data-[state=checked]:translate-x-[15px] data-[state=checked]:bg-pit" />
    </Switch.Root>
  );
}

function Sources({ figures }: { figures: Figures }) {
  const top = topSources(figures.shares);
  return (
    <section className="border-t border-line px-3.5 py-2" aria-label="Where the noise comes from">
      <h3 className="font-semibold">Where the noise comes from</h3>
      {top.length === 0 ? (
        <p className="text-soft">Measured once every pixel has two samples.</p>
      ) : (
        <p className="text-soft" data-testid="sources">
          {top.map((s, i) => (
            <span key={`${s.group}${s.pathClass}`}>
              {i > 0 && ' · '}
              <span className="num font-semibold text-ink">{share(s.share)}</span> {words(s.group)},{' '}
              {words(s.pathClass)}
            </span>
          ))}
        </p>
      )}
    </section>
  );
}

function Foot({ recipe }: { recipe: Recipe }) {
  const { status, logTrial, ready } = useSession();
  const desk = useDesk();
  const region = recipe.region !== null;
  const state = status?.state;
  return (
    <div className="flex items-center gap-2 border-t border-line px-3.5 py-2.5">
      <Tip
        text={`Renders ${region ? 'the region' : 'the whole frame'} on the worker, timed, and keeps it in the logbook.`}
      >
        <Primary onClick={logTrial} disabled={!ready}>
          {region ? 'Log region' : 'Log trial'} <Key>T</Key>
        </Primary>
      </Tip>
      {region ? (
        <Plain onClick={() => useRecipe.getState().set('region', null)}>Whole frame</Plain>
      ) : (
        <Plain onClick={() => desk.set({ drawing: true })}>
          Region <Key>R</Key>
        </Plain>
      )}
      <span className="flex-1" />
      <Tip text="The live picture, rendered by this page. Stop keeps what there is; L starts it again.">
        <Word
          on={desk.live}
          onClick={() => desk.set({ live: !desk.live })}
          data-testid="live"
          data-coarse-ms={status?.coarseMs ?? undefined}
          data-changes={status?.changes}
        >
          <span className="num">
            {!ready
              ? 'loading'
              : !desk.live
                ? 'live off'
                : state === 'paused'
                  ? 'paused'
                  : state === 'coarse'
                    ? 'coarse'
                    : `live ${Number.isFinite(status?.samples) ? status?.samples : 0} / ${status?.target ?? 0}`}
          </span>
        </Word>
      </Tip>
    </div>
  );
}
