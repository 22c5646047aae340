'use client';

import { clock, percent } from '@/core/words';
import type { TriedCure } from '@/render/advice/cures/try-cures';
import type { SmallPicture } from '@/render/views/place';
import { Plain, Tip, Word } from '../../parts/controls';
import { Small } from '../../parts/small-picture';
import { makeCure, useCure } from '../../state/cure-store';
import { useGoverning } from '../../state/figures';
import { useReady } from '../../state/live-store';
import { logTrial } from '../../state/log-trial';
import { useRecipe } from '../../state/recipe-store';
import { useBusy, useTimed } from '../../state/trials-store';
import { rankedCures } from './cures';
import { StepLine } from './step-line';
import { useSearch, useTriedCures } from './use-search';

const signed = (ratio: number) => {
  const percentOff = Math.round((ratio - 1) * 100);
  return percentOff === 0 ? '±0 %' : `${percentOff > 0 ? '+' : '−'}${Math.abs(percentOff)} %`;
};
const times = (v: number) => `×${v < 10 ? v.toFixed(2) : v.toFixed(0)}`;

/** What cures the noise: every cure as it was tried on patches, or until then what the shares allow. */
export function CureTable() {
  const ready = useReady();
  const timed = useTimed();
  const step = useCure((s) => s.step);
  const stop = useCure((s) => s.stop);
  const { ask, cures } = useTriedCures();
  return (
    <div className="flex min-w-0 flex-1 flex-col">
      <div className="flex items-center gap-3 pb-0.5 text-dim">
        <span>
          {cures ? `What cures it, tried on ${cures.cells} patches` : 'What cures it, as far as the shares tell'}
        </span>
        {step ? (
          <Word onClick={() => stop?.()}>Stop</Word>
        ) : (
          <Tip text="Renders patches of the picture or region with every setting that may help, and with changes of the scene about the lights that cause the noise, and ranks them by what they do to noise and time.">
            <Plain className="!px-2 !py-0" disabled={!ready || timed} onClick={() => void ask()}>
              {cures ? 'Try again' : 'Try all'}
            </Plain>
          </Tip>
        )}
        <StepLine of="cures" />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto pb-1">
        {cures ? <Tried tried={cures.tried} before={cures.crop} /> : <ByShares />}
      </div>
    </div>
  );
}

/** Counts doubled, by the middle of what shares allow or by pilots. */
function ByShares() {
  const recipe = useRecipe((s) => s.recipe)!;
  const { figures } = useGoverning();
  const { answer } = useSearch();
  return rankedCures(recipe, answer, figures).map((c) => (
    <div key={c.path} className="flex h-[21px] items-center gap-2">
      <span className="num w-12 shrink-0 text-right text-dim">{times(c.efficiency)}</span>
      <Tip text="A click makes the recipe; T logs it.">
        <Word className="!px-0.5" onClick={() => useRecipe.getState().replace(c.recipe)}>
          {c.words}
        </Word>
      </Tip>
      <span className="text-[11px] text-dim">
        {c.by === 'pilots' ? 'predicted from patches' : 'the middle of what the shares allow'}
      </span>
    </div>
  ));
}

const HEADS: { words: string; tip: string }[] = [
  { words: 'efficiency', tip: '1 / (grain² × time) against the recipe as it stands, measured on the patches' },
  {
    words: 'grain, time',
    tip: 'Of the same samples, against the picture as it stands. Grain counts bright dots by all their light, noise only by what the display shows: at few samples a picture that has not met its rare light yet has little noise, but not little grain.',
  },
  {
    words: 'look',
    tip: 'How far means of the patches move, in percent of display white: what the cure changes of the picture',
  },
  { words: 'nits', tip: 'Mean luminance of the patches before and after; a strength keeps it where one is found' },
  { words: 'comes to', tip: 'Noise and time that the whole picture is predicted to come to with it' },
];

function Tried({ tried, before }: { tried: readonly TriedCure[]; before: SmallPicture }) {
  return (
    <table className="num w-full border-separate border-spacing-x-2 border-spacing-y-0 text-[11.5px]">
      <thead>
        <tr className="text-left whitespace-nowrap text-dim">
          <th className="w-full font-normal">
            <Tip text="A click makes all its steps and logs the trial that proves it.">
              <span className="font-sans">what</span>
            </Tip>
          </th>
          {HEADS.map((h) => (
            <th key={h.words} className="text-right font-normal">
              <Tip text={h.tip}>
                <span className="font-sans">{h.words}</span>
              </Tip>
            </th>
          ))}
          <th className="text-right font-normal">
            <span className="font-sans">before | after</span>
          </th>
        </tr>
      </thead>
      {tried.map((c) => (
        <Cure key={c.code} cure={c} before={before} />
      ))}
    </table>
  );
}

/** Two figures, one over the other. */
function Over({ first, second }: { first: string; second: string }) {
  return (
    <td className="text-right leading-4 whitespace-nowrap">
      {first} <span className="block">{second}</span>
    </td>
  );
}

/** A cure as measured: one click makes all its steps and logs the trial that proves it. */
function Cure({ cure, before }: { cure: TriedCure; before: SmallPicture }) {
  const busy = useBusy();
  const { noise, seconds } = cure.predicted;
  const { nits, steps, matched } = cure;
  const rows = steps.length > 0 ? 2 : 1;
  const apply = () => {
    makeCure(cure);
    void logTrial({ title: cure.words.slice(0, 120), predicted: cure.predicted });
  };
  return (
    <tbody className="hover:bg-raised" data-testid="cure">
      <tr className="align-top">
        <td className="font-sans text-[12px] leading-4">
          <Word className="!px-0.5 !py-0 text-left" disabled={busy} onClick={apply}>
            {cure.words}
          </Word>
        </td>
        <td className={`text-right leading-4 ${cure.efficiency > 1.05 ? 'font-semibold' : 'text-dim'}`}>
          {times(cure.efficiency)}
        </td>
        <Over first={signed(cure.grain)} second={signed(cure.time)} />
        <td className="text-right leading-4 whitespace-nowrap">
          {cure.look < 0.05 ? 'same' : `${cure.look.toFixed(1)} %`}
        </td>
        <td className="text-right leading-4 whitespace-nowrap">
          {steps.length === 0 ? '' : `${nits.before.toPrecision(3)} → ${nits.after.toPrecision(3)}`}
          {steps.length > 0 && !matched && <span className="block font-sans text-dim">not matched</span>}
        </td>
        <Over first={percent(noise.value)} second={`in ${clock(seconds.value)}`} />
        <td className="text-right" rowSpan={rows}>
          <span className="inline-flex gap-1 pt-0.5">
            <Small picture={before} scale={CROP_SCALE} />
            <Small picture={cure.crop} scale={CROP_SCALE} />
          </span>
        </td>
      </tr>
      {steps.length > 0 && (
        <tr>
          <td colSpan={HEADS.length + 1} className="px-0.5 pb-1 font-sans text-[11px] leading-[14px] text-dim">
            {steps.join('; ')}
          </td>
        </tr>
      )}
    </tbody>
  );
}

/** Pixels of the screen that a pixel of a patch takes. */
const CROP_SCALE = 2;
