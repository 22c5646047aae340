'use client';

import { relativeEfficiency } from '@/contract/trial';
import { DARKER_STOPS } from '@/core/stats';
import { clock, percent, share, two, words } from '@/core/words';
import { useLadder } from '../../ladder/ladder-store';
import { Key, Plain, Primary, Stat, Tip, Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { type Figures, useFigures, useGoverning } from '../../state/figures';
import { useLive, useReady } from '../../state/live-store';
import { logTrial } from '../../state/log-trial';
import { useRecipe } from '../../state/recipe-store';
import { useBaseline, useSlotTrial } from '../../state/slots';
import { CurePart } from './cure-part';
import { topSources } from './governs';
import { OutlookStrip } from './outlook-strip';
import { RecipeHead } from './recipe-head';
import { Rows } from './recipe-rows';

/** Tune: the recipe, each row with the share of time and of noise that it governs, measured in A. */
export function TunePanel() {
  const open = useRecipe((s) => s.recipe !== null);
  if (!open) return null;
  return (
    <>
      <Head />
      <RecipeHead />
      <div className="min-h-0 flex-1 overflow-y-auto py-1.5" data-testid="recipe-rows">
        <Rows />
      </div>
      <OutlookStrip />
      <Sources />
      <CurePart />
      <Foot />
    </>
  );
}

/** What A comes to, against target, budget and baseline. */
function Head() {
  const f = useFigures('A');
  const target = useDesk((s) => s.target);
  const budget = useDesk((s) => s.budgetSeconds);
  const baseline = useBaseline();
  const gain = relativeEfficiency(useSlotTrial('A'), baseline);
  return (
    <div className="flex border-b border-line">
      <Stat
        title={f.residual ? 'Residual noise' : 'Noise'}
        value={percent(f.noise?.rms)}
        beside={`of ${target}`}
        tip="Root mean square of the noise in A, in percent of display white, measured from two independent halves of its samples. Beside it the target, which is a line in the map below."
      />
      <Stat
        title={
          f.calibrated !== null ? 'Time at speed 1' : f.told === null && f.seconds !== null ? 'Time, not timed' : 'Time'
        }
        value={clock(f.told)}
        beside={`of ${clock(budget)}`}
        tip="Time spent tracing A, beside the budget set in the map. A trial is traced by the worker on all its cores, and its time is told as at speed 1: the clock's time corrected by how fast the machine was meanwhile. The live picture uses half of your cores and is told by the clock."
      />
      <Stat
        title="Efficiency"
        value={gain ? `×${gain.toFixed(2)}` : '–'}
        beside={baseline ? `of ${two(baseline.number)}` : 'no baseline'}
        tip="1 / (noise² × time) as a multiple of the baseline's. More samples alone do not change it: a rise means a better recipe."
      />
    </div>
  );
}

function Sources() {
  const { figures } = useGoverning();
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
      <Hidden figures={figures} />
    </section>
  );
}

/** What the display hides of the noise and compositing may bring to light. */
function Hidden({ figures: { darker, hot } }: { figures: Figures }) {
  if (darker === null || !hot) return null;
  return (
    <p className="num text-[11.5px] text-dim" data-testid="hidden-noise">
      {DARKER_STOPS} stops darker {percent(darker)} ·{' '}
      {hot.count === 0 ? 'no hot pixels' : hotWords(hot.count, hot.ofLight)}
    </p>
  );
}

const hotWords = (count: number, ofLight: number) =>
  `${count} hot ${count === 1 ? 'pixel' : 'pixels'}, ${share(ofLight)} of light`;

function Foot() {
  const ready = useReady();
  const region = useRecipe((s) => s.recipe?.region !== null);
  return (
    <div className="flex items-center gap-2 border-t border-line px-3.5 py-2.5">
      <Tip
        text={`Renders ${region ? 'the region' : 'the whole frame'} on the worker, timed, and keeps it in the logbook.`}
      >
        <Primary onClick={() => void logTrial()} disabled={!ready}>
          {region ? 'Log region' : 'Log trial'} <Key>T</Key>
        </Primary>
      </Tip>
      {region ? (
        <Plain onClick={() => useRecipe.getState().set('region', null)}>Whole frame</Plain>
      ) : (
        <Plain onClick={() => useDesk.getState().set({ drawing: true })}>
          Region <Key>R</Key>
        </Plain>
      )}
      <Tip text="Steps one setting, or two, through values: a trial each, then all on one sheet (Shift T).">
        <Plain disabled={!ready} onClick={() => useLadder.setState({ making: true })}>
          Ladder
        </Plain>
      </Tip>
      <span className="flex-1" />
      <LiveWord />
    </div>
  );
}

/** How far the live picture is; a click stops or starts it. */
function LiveWord() {
  const status = useLive((s) => s.status);
  const live = useDesk((s) => s.live);
  const stage = !status
    ? 'loading'
    : !live
      ? 'live off'
      : status.state === 'paused' || status.state === 'coarse'
        ? status.state
        : `live ${Number.isFinite(status.samples) ? status.samples : 0} / ${status.target}`;
  return (
    <Tip text="The live picture, rendered by this page. Stop keeps what there is; L starts it again.">
      <Word
        on={live}
        onClick={() => useDesk.getState().set({ live: !live })}
        data-testid="live"
        data-coarse-ms={status?.coarseMs ?? undefined}
        data-changes={status?.changes}
      >
        <span className="num">{stage}</span>
      </Word>
    </Tip>
  );
}
