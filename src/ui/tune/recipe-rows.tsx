'use client';

import type { ReactNode } from 'react';
import { frameOf, isPreset, PRESETS, type Recipe, settingAt } from '@/core/recipe';
import { GrainBar, Tip, ToneBar } from '../parts/controls';
import { NumberField } from '../parts/number-field';
import { Toggle } from '../parts/toggle';
import type { Figures } from '../state/figures';
import { share } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { idleWords } from './consequences';
import { GOVERNS, noiseShareOf, rayShareOf, timeShareOf } from './governs';
import { useLookedAt } from './outlook-strip';

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
  const time = timeShareOf(path, figures);
  const rays = rayShareOf(path, figures.rays);
  const noise = noiseShareOf(path, figures.shares);
  const look = useLookedAt((s) => s.set);
  const idle = idleWords(path, settingAt(recipe, path), figures);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only tells the strip below which row is looked at
    <div
      onPointerEnter={() => look(path)}
      onPointerLeave={() => look(null)}
      onFocus={() => look(path)}
      className="grid h-[26px] grid-cols-[1fr_auto_30px_28px_30px_28px] items-center gap-x-2 pr-3 pl-4 hover:bg-raised"
    >
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
      {idle ? (
        <span className="col-span-4 truncate text-right text-[11px] text-dim">{idle}</span>
      ) : GOVERNS[path] ? (
        <>
          <ToneBar value={time} label={`${share(time)} of the time`} />
          <span className="num text-right text-[11px] text-dim" title={`${share(rays)} of the rays`}>
            {share(time)}
          </span>
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
    path: 'sampling.splits.fog',
    label: 'Fog splits',
    tip: 'Places along each camera ray where fog is lit, and paths that go on from there. Cures the grain of beams and haze; without fog in the shot it costs nothing.',
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
  {
    path: 'rayDepth.fog',
    label: 'Fog',
    tip: 'Continuation rays from fog. 0 = light that fog scatters once, which is most of a beam in thin fog.',
  },
];
const SOFT: Numeric[] = [
  {
    path: 'rayDepth.softenCaustics',
    label: 'Caustic softening',
    tip: 'Least roughness of mirrors and glass for light on its way to a matt surface. Less noise, softer caustics; what the camera sees in glass stays sharp.',
    step: 0.05,
  },
  {
    path: 'rayDepth.reachMetres',
    label: 'Reach',
    tip: 'Length at which continuation rays are cut, in metres. Off lets them go as far as the scene does.',
    off: 'off',
    suffix: 'm',
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

const TOGGLES: Record<string, { label: string; tip: string }> = {
  'rayDepth.caustics': {
    label: 'Caustics',
    tip: 'Light that reaches a diffuse surface through sharp reflection or transmission. Off removes exactly this part of the picture, and its noise.',
  },
  'film.lostLight': {
    label: 'Lost light',
    tip: 'Follows a few paths beyond the limits and keeps what they bring apart: what ray depth and reach cost in light, told without a second render.',
  },
  'camera.depthOfField': {
    label: 'Depth of field',
    tip: 'Whether the lens blurs what is out of focus.',
  },
  'camera.motionBlur': {
    label: 'Motion blur',
    tip: 'Whether what moves while the shutter is open is blurred.',
  },
  'clay.on': {
    label: 'Clay',
    tip: 'Shows surfaces as grey matt clay, glass and glowing ones as they are, so that light is judged alone.',
  },
};

/** The recipe, row by row, each with the share of time and of noise that it governs. */
export function Rows({ recipe, figures }: { recipe: Recipe; figures: Figures }) {
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
  const toggle = (path: string) => {
    const { label, tip } = TOGGLES[path];
    return (
      <Row path={path} label={label} tip={tip} recipe={recipe} figures={figures}>
        <Toggle label={label} on={settingAt(recipe, path) === true} onChange={(v) => set(path, v)} />
      </Row>
    );
  };
  return (
    <>
      <Section
        title="Sampling"
        beside={
          <span className="grid w-[140px] grid-cols-2 gap-2 text-[11px] text-dim">
            <Tip text="Share of the tracing time in A that the rays of this row took: counted rays by what each kind was measured to cost.">
              <span>time</span>
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
      <Row
        path="sampling.adapt"
        label="Dealt out"
        tip="Evenly: each cell stops by itself at the threshold. For the least rays: cells get samples by what a sample cures there and what it costs, until the whole frame is at the threshold."
        recipe={recipe}
        figures={figures}
      >
        <Choice
          label="Dealt out"
          value={recipe.sampling.adapt}
          options={{ even: 'evenly', cheapest: 'for the least rays' }}
          onChange={(v) => set('sampling.adapt', v)}
        />
      </Row>
      <Row
        path="sampling.watch"
        label="Noise watched"
        tip="Whose noise the threshold is held against: the picture's, or the worst of it and each light group by itself. A group that is dim now stays grainy otherwise, and shows when it is lifted later."
        recipe={recipe}
        figures={figures}
      >
        <Choice
          label="Noise watched"
          value={recipe.sampling.watch}
          options={{ beauty: 'of the picture', groups: 'of every group' }}
          onChange={(v) => set('sampling.watch', v)}
        />
      </Row>
      {SPLITS.map(row)}
      <Section title="Ray depth" />
      {DEPTHS.map(row)}
      {toggle('rayDepth.caustics')}
      {SOFT.map(row)}
      {toggle('film.lostLight')}
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
        <Choice
          label="Filter"
          value={recipe.sampling.filter.kind}
          options={{ box: 'box', tent: 'tent', gauss: 'gauss' }}
          onChange={(v) => set('sampling.filter.kind', v)}
        />
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
      {toggle('camera.depthOfField')}
      {toggle('camera.motionBlur')}
      {toggle('clay.on')}
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

function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: Record<T, string>;
  onChange: (value: T) => void;
}) {
  return (
    <select
      aria-label={label}
      className="rounded-sm border border-line bg-pit px-1.5 py-[3px]"
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
    >
      {Object.entries<string>(options).map(([v, words]) => (
        <option key={v} value={v}>
          {words}
        </option>
      ))}
    </select>
  );
}
