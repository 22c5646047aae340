import { type Denoised, type DenoisedFigures, type FrameAbout, isFiltered, isUnderWay } from '@/contract/denoised';
import { finished } from '@/contract/trial';
import type { Look } from '@/core/denoise';
import type { Interval } from '@/core/stats';
import { clock, percent, share, two, words } from '@/core/words';
import type { Judged, JudgedPlace } from '@/render/questions/judged';
import { Key, Plain, Primary, Tip, Word } from '../../parts/controls';
import { Small } from '../../parts/small-picture';
import { api } from '../../state/api';
import { useAsk } from '../../state/ask';
import { toggleDenoised } from '../../state/denoising';
import { useDesk } from '../../state/desk-store';
import { saying } from '../../state/log-trial';
import { useRecipe } from '../../state/recipe-store';
import { useIsDenoised, useMade, useSlotTrial } from '../../state/slots';
import { takenOf } from '../../state/sources';
import type { ListedTrial } from '../../state/trials-store';
import { useViewport } from '../../state/viewport-store';
import { Strength } from './denoise-strength';

const JUDGED_AFTER_MS = 200;
const CROP_SCALE = 2;
/** Screen pixels a pixel of the film takes when a place is looked at. */
const CLOSE = 4;

const WHY: Record<Look, [string, string]> = {
  edge: ['dark meets light', 'Where the picture has its hardest edges'],
  texture: ['finest texture', 'Where surfaces vary most from pixel to pixel'],
  changed: ['most changed', 'Where most was changed that noise does not explain'],
  glass: ['behind glass', 'Where most is seen through glass or in a mirror'],
  noise: ['noisiest', 'Where the film is noisiest as it was rendered'],
};

const between = ({ value, low, high }: Interval) => `${percent(value)} (${low.toFixed(2)}–${high.toFixed(2)})`;

/** Denoising of the trial in A: how much of it is taken, what noise it leaves, what it changed that was not noise. */
export function DenoiseFace() {
  const trial = useSlotTrial('A');
  const smooth = useDesk((s) => s.smooth);
  if (!trial || !finished(trial))
    return (
      <div className="flex flex-col items-start gap-2 px-3 pt-2 text-soft">
        <p>Put a finished trial into A: click one in the logbook, or log one with T. Q then takes its noise off.</p>
        <Tip text="A quick, lower grade of it, for lighting: what is far above its surroundings is cut, and no figure or readout goes by it.">
          <Plain onClick={() => useDesk.getState().set({ smooth: !smooth })}>
            {smooth ? 'Live picture as it is' : 'Smooth the live picture'} <Key>Shift Q</Key>
          </Plain>
        </Tip>
      </div>
    );
  return <OfTrial trial={trial} />;
}

function OfTrial({ trial }: { trial: ListedTrial }) {
  const made = useMade(trial);
  const { denoised } = trial;
  const of = made && {
    of: { id: trial.id, film: trial.film, denoised: takenOf(made) },
    patches: made.patches!,
  };
  const { answer, fault } = useAsk('judged', made?.patches ? of : null, { afterMs: JUDGED_AFTER_MS, keep: true });
  return (
    <div className="flex min-h-0 flex-1 gap-6 px-3 pt-0.5" data-testid="denoise">
      <div className="flex w-[372px] shrink-0 flex-col gap-1 overflow-y-auto pb-1">
        <StateLine trial={trial} />
        {isFiltered(denoised) && <Strength trial={trial} />}
        {isFiltered(denoised) && <FiguresOf trial={trial} judged={answer} />}
        {made && <Joinable trial={trial} made={made} />}
        {fault && <p className="text-soft">{fault}</p>}
      </div>
      <div className="min-w-0 flex-1 overflow-y-auto pb-1">
        {answer ? <Places places={answer.places} trial={trial} /> : <Waits trial={trial} />}
      </div>
    </div>
  );
}

/** Why there are no places to look at yet. */
function Waits({ trial: { denoised } }: { trial: ListedTrial }) {
  if (denoised?.state === 'judging')
    return (
      <p className="text-soft">
        Patches of the frame are rendered anew, with more samples and other random numbers, to hold it against.
      </p>
    );
  if (denoised?.state === 'done')
    return (
      <p className="text-soft">Nothing was rendered to hold it against{denoised.fault ? `: ${denoised.fault}` : '.'}</p>
    );
  return (
    <p className="max-w-[420px] text-soft">
      Denoising keeps every sum: groups, classes and bounces still add up to the picture. What it may have taken besides
      noise is measured on patches that are rendered anew.
    </p>
  );
}

function StateLine({ trial }: { trial: ListedTrial }) {
  const looked = useIsDenoised('A');
  const made = useMade(trial);
  const { denoised, number } = trial;
  if (!denoised || denoised.state === 'failed' || denoised.state === 'stopped')
    return (
      <div className="flex items-center gap-3">
        <Tip text="Takes the noise off this trial's film and keeps what comes out beside it; the film itself stays as it is. What is in sight comes first.">
          <Primary onClick={toggleDenoised}>
            Denoise {two(number)} <Key>Q</Key>
          </Primary>
        </Tip>
        <span className="text-soft">
          {denoised?.state === 'failed' ? `failed: ${denoised.fault}` : denoised ? 'stopped' : ''}
        </span>
      </div>
    );
  const doing = {
    queued: 'waiting',
    filtering: 'denoising',
    storing: 'storing',
    judging: 'rendering patches',
    done: '',
  };
  return (
    <div className="flex h-6 items-center gap-3">
      {isUnderWay(denoised) ? (
        <>
          <span className="num whitespace-nowrap" role="status" data-testid="denoising">
            {doing[denoised.state as keyof typeof doing]} {Math.round(denoised.fraction * 100)} %
            {denoised.leftMs ? ` · ${clock(denoised.leftMs / 1000)} left` : ''}
          </span>
          <Word onClick={() => saying(api.stopDenoising(trial.id))}>Stop</Word>
        </>
      ) : (
        <span className="num text-dim">
          {made?.figures ? `${made.figures.parts} parts in ${clock(made.figures.seconds)}` : ''}
          {made?.figures?.joined && <JoinedWith joined={made.figures.joined} />}
        </span>
      )}
      <span className="flex-1" />
      <Tip text="A denoised, or as it was rendered (Q)">
        <Word on={looked} onClick={toggleDenoised}>
          {looked ? 'shown in A' : 'show in A'}
        </Word>
      </Tip>
    </div>
  );
}

function FiguresOf({ trial, judged }: { trial: ListedTrial; judged: Judged | null }) {
  const made = useMade(trial);
  const overlay = useDesk((s) => s.overlay);
  const looked = useIsDenoised('A');
  const { set } = useDesk.getState();
  const truth = judged?.truth;
  const hot = Object.entries(made?.figures?.hot ?? {}).filter(([, h]) => h.share > 0.0005);
  const patches = made?.patches;
  const foretold = trial.predicted?.denoised;
  const flicker = made?.figures?.joined?.flicker;
  const rows: [string, string, string, string][] = [
    [
      'noise left',
      percent(trial.denoised?.residual?.rms),
      percent(trial.noise?.rms),
      'What the denoised halves still differ by, in percent of display white; beside it that of the film as it was rendered. It does not see what was smoothed away.',
    ],
    [
      'changed',
      truth ? between(truth.changed) : '–',
      '',
      'What is wrong in the denoised picture and is not the noise that is left: detail that was taken away or smeared, in percent of display white, with the interval in which it lies at 95 %. Measured against patches rendered anew.',
    ],
    [
      'true error',
      truth ? between(truth.error) : '–',
      truth ? percent(truth.plain.value) : '',
      'All that is wrong in it, noise and what was changed; beside it that of the film as it was rendered.',
    ],
  ];
  if (flicker?.joined)
    rows.push([
      'flicker',
      `${percent(flicker.joined)} (${percent(flicker.alone)} alone)`,
      percent(flicker.rendered),
      'How far this frame differs from its neighbour moved here, in percent of display white: root mean square where motion can be trusted. Joined, denoised alone, and as rendered.',
    ]);
  return (
    <>
      <table className="num w-full text-[11.5px]" data-testid="denoise-figures">
        <thead>
          <tr className="text-left text-dim">
            <th className="w-[80px] font-normal" />
            <th className="font-normal">denoised</th>
            <th className="w-[96px] font-normal">as rendered</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, denoised, plain, tip]) => (
            <tr key={name} className="h-[17px]">
              <td className="text-dim">
                <Tip text={tip}>
                  <span>{name}</span>
                </Tip>
              </td>
              <td className={name === 'changed' ? 'font-semibold' : ''} data-testid={name.replace(' ', '-')}>
                {denoised}
              </td>
              <td>
                {name === 'changed' && looked ? (
                  <Tip text="Shows over the picture what denoising took away and noise does not explain (Shift N)">
                    <Word
                      className="!px-0 !py-0"
                      on={overlay === 'changed'}
                      onClick={() => set({ overlay: overlay === 'changed' ? 'none' : 'changed' })}
                    >
                      where
                    </Word>
                  </Tip>
                ) : (
                  plain
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {foretold && (
        <p className="num text-[11px] text-dim" data-testid="foretold">
          predicted {percent(foretold.residual.value)} left, off by {between(foretold.error)}
        </p>
      )}
      {(hot.length > 0 || patches) && (
        <p className="num text-[11px] text-dim">
          {hot.length > 0 && (
            <Tip text="Pixels far above all about them and above themselves in the other half: their light is kept, and spread over the 49 pixels about them before filtering.">
              <span>
                hot, spread:{' '}
                {hot.map(([name, h]) => `${words(name.replace('group.', ''))} ${share(h.share)}`).join(' · ')}
              </span>
            </Tip>
          )}
          {hot.length > 0 && patches && ' · '}
          {patches &&
            `${patches.cells.length} patches of ${Math.round(patches.samples)} samples, ${clock(patches.seconds)}`}
        </p>
      )}
    </>
  );
}

const inOrder = (about: readonly FrameAbout[]) => [...about].sort((a, b) => a.frame - b.frame);

/** Which frames it was joined with. */
function JoinedWith({ joined: { frames, share: theirs } }: { joined: NonNullable<DenoisedFigures['joined']> }) {
  const named = inOrder(frames).map((f) => `${f.frame} of trial ${two(f.number)}`);
  return (
    <Tip
      text={`Joined with frame ${named.join(' and ')}: things are followed by their motion, and ${share(theirs)} of the picture is theirs.`}
    >
      <span data-testid="joined">
        {' '}
        · joined with{' '}
        {inOrder(frames)
          .map((f) => f.frame)
          .join(', ')}
      </span>
    </Tip>
  );
}

/** That it can be joined with the frames before and after, which may have come, or been rendered anew, since. */
function Joinable({ trial, made: { figures, patches, about } }: { trial: ListedTrial; made: Denoised }) {
  const joined = figures?.joined;
  const { denoised } = trial;
  // What it has is from before then.
  const fault = denoised?.state === 'done' && patches ? denoised.fault : null;
  if (joined === null && about.length === 0 && !fault)
    return <p className="text-[11px] text-dim">No trial shows the frame before or after as this one does.</p>;
  const others = about.filter((f) => !joined?.frames.some((j) => j.number === f.number));
  if (isUnderWay(denoised)) return null;
  if (others.length === 0) return fault ? <p className="text-soft">{fault}</p> : null;
  return (
    <>
      {fault && <p className="text-soft">{fault}</p>}
      <Tip text="Denoises this frame again together with those about it: things are followed by their motion, and what differs by more than noise is left out. Less noise, less flicker.">
        <Plain className="num self-start !px-2 !py-0.5" onClick={() => saying(api.denoise(trial.id, { joins: true }))}>
          Join with frame{' '}
          {inOrder(about)
            .map((f) => `${f.frame} (${two(f.number)})`)
            .join(' and ')}
        </Plain>
      </Tip>
    </>
  );
}

/** Shows a place of a trial close by, in both slots alike. */
function lookAt({ x, y }: JudgedPlace, { pixels: { width, height, region } }: ListedTrial): void {
  const { size } = useRecipe.getState().recipe!;
  const fx = (region.x + x * region.width) / width;
  const fy = (region.y + y * region.height) / height;
  const zoom = (CLOSE * width) / size.width;
  useViewport.setState((s) => ({
    zoom,
    pan: { x: (0.5 - fx) * size.width * zoom, y: (0.5 - fy) * size.height * zoom },
    parting: { ...s.parting, x: fx, y: fy },
  }));
}

/** Places chosen by what stands out there, plain, denoised, and as they were rendered anew. */
function Places({ places, trial }: { places: JudgedPlace[]; trial: ListedTrial }) {
  return (
    <div className="flex flex-wrap gap-x-4 gap-y-1" data-testid="judged-places">
      {places.map((p) => (
        <Tip
          key={p.why}
          text={`${WHY[p.why][1]}. Left as rendered, middle denoised, right rendered anew with more samples; a click goes there.`}
        >
          <button type="button" className="text-left hover:text-ink" onClick={() => lookAt(p, trial)}>
            <span className="block text-[11px] text-dim">{WHY[p.why][0]}</span>
            <span className="flex gap-px">
              <Small picture={p.plain} scale={CROP_SCALE} label={`${WHY[p.why][0]} as rendered`} />
              <Small picture={p.denoised} scale={CROP_SCALE} label="denoised" />
              <Small picture={p.anew} scale={CROP_SCALE} label="rendered anew" />
            </span>
          </button>
        </Tip>
      ))}
    </div>
  );
}
