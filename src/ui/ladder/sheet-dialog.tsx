'use client';

import { useEffect, useRef } from 'react';
import { finished, relativeEfficiency, running, type TrialLine } from '@/contract/trial';
import { kneeOf, type LadderPoint } from '@/core/stats';
import { clock, percent, two } from '@/core/words';
import type { Stills } from '@/render/questions/stills';
import type { Area } from '@/render/views/place';
import { Plain, Tip } from '../parts/controls';
import { Dialog } from '../parts/dialog';
import { saveFile, takeFile } from '../parts/save-file';
import { sheetPng } from '../parts/sheet-png';
import { api } from '../state/api';
import { useAsk } from '../state/ask';
import { useDesk } from '../state/desk-store';
import { saying } from '../state/log-trial';
import { useRecipe } from '../state/recipe-store';
import { useShot } from '../state/shot-store';
import { useBaseline } from '../state/slots';
import { placementOf } from '../state/sources';
import { tell } from '../state/tell';
import { type ListedTrial, useAllTrials } from '../state/trials-store';
import { LadderCurve } from './ladder-curve';
import { useLadder } from './ladder-store';

const MOST = 24;

/** Trials beside each other, cropped alike, each with its setting, noise and time. */
export function SheetDialog() {
  const sheet = useLadder((s) => s.sheet);
  return sheet ? <Sheet of={sheet} /> : null;
}

/** The sheet's trials: a ladder's in the order of its steps, chosen ones as they were logged. */
function useSheet(of: SheetOf): ListedTrial[] {
  const trials = useAllTrials();
  const own = trials.filter((t) => ('ladder' in of ? t.ladder?.id === of.ladder : of.trials.includes(t.id)));
  return own.sort((a, b) => a.number - b.number).slice(0, MOST);
}

type SheetOf = NonNullable<ReturnType<typeof useLadder.getState>['sheet']>;

/** Whether a trial shows just this part of its frame. */
function showsJust({ pixels: { width, height, region: r } }: TrialLine, area: Area): boolean {
  const near = (pixels: number, fraction: number, all: number) => Math.abs(pixels - fraction * all) <= 1;
  return (
    near(r.x, area.x, width) &&
    near(r.y, area.y, height) &&
    near(r.width, area.w, width) &&
    near(r.height, area.h, height)
  );
}

/** The pictures of the finished ones, asked for again whenever another is finished. */
function useStills(trials: ListedTrial[]): Stills | null {
  const region = useRecipe((s) => s.recipe)!.region;
  const done = trials.filter(finished);
  // What every trial shows whole needs no cropping.
  const area = region && !done.every((t) => showsJust(t, region)) ? region : null;
  const asked = { trials: done.map((t) => ({ id: t.id, film: t.film, denoised: null, frame: placementOf(t) })), area };
  return useAsk('stills', asked, { of: done.map((t) => t.state), keep: true }).answer;
}

function Sheet({ of }: { of: SheetOf }) {
  const baseline = useBaseline();
  const shot = useShot((s) => s.name);
  const trials = useSheet(of);
  const stills = useStills(trials);
  const done = trials.filter(finished);
  const left = trials.filter(running);
  const axes = trials[0]?.ladder?.at.map((a) => a.label) ?? [];
  const heading =
    'ladder' in of ? `Ladder: ${axes.join(' × ')}` : `${trials.length} ${trials.length === 1 ? 'trial' : 'trials'}`;
  const across =
    axes.length === 2
      ? new Set(trials.map((t) => t.ladder?.at[1].value)).size
      : columnsFor(trials.length, stills?.pictures.find((p) => p !== null) ?? null);
  const points = done.flatMap((t, i): LadderPoint[] => {
    const value = t.ladder?.at[0].value;
    const difference = stills?.fromLast[i];
    if (axes.length !== 1 || typeof value !== 'number' || !t.noise || !t.seconds?.calibrated || difference == null)
      return [];
    return [{ value, noise: t.noise.rms, seconds: t.seconds.calibrated, difference }];
  });
  const knee = left.length === 0 ? kneeOf(points) : null;
  const figures = (t: ListedTrial) => {
    if (!finished(t))
      return t.state === 'queued' ? 'waiting' : t.state === 'failed' ? 'failed' : `${Math.round(t.fraction * 100)} %`;
    const gain = relativeEfficiency(t, baseline);
    return `${percent(t.noise?.rms)} · ${t.untimed ? 'not timed' : clock(t.seconds?.calibrated)}${gain ? ` · ×${gain.toFixed(2)}` : ''}`;
  };
  const titleOf = (t: ListedTrial) => `${two(t.number)} ${t.title}`;
  const save = async () => {
    const tiles = await Promise.all(
      trials.map(async (t) => {
        const p = stills?.pictures[done.indexOf(t)];
        const picture = p ? await createImageBitmap(new ImageData(p.pixels, p.width, p.height)) : null;
        return { picture, title: titleOf(t), figures: figures(t) };
      }),
    );
    saveFile(await sheetPng(`${shot} · ${heading}`, tiles, across), `${shot}-sheet.png`);
  };
  const close = () => useLadder.setState({ sheet: null });
  return (
    <Dialog
      title={heading}
      place="sheet"
      className="!bg-ground"
      onClose={close}
      testId="sheet"
      header={
        <header className="flex items-center gap-2 border-b border-line px-4 py-2">
          <h2 className="font-semibold">{heading}</h2>
          {left.length > 0 && (
            <span className="num text-soft" role="status">
              {done.length} of {trials.length} rendered
            </span>
          )}
          <span className="flex-1" />
          {left.length > 0 && (
            <Plain onClick={() => saying(Promise.all(left.map((t) => api.stopTrial(t.id))))}>Stop the rest</Plain>
          )}
          <Tip text="The sheet with its labels, as a picture file." side="bottom">
            <Plain disabled={!stills} onClick={() => void save().catch(tell)}>
              Save as PNG
            </Plain>
          </Tip>
          {'ladder' in of && done.length > 0 && (
            <Tip
              text="One HTML file for whoever asks: pictures, noise and time of every step, and where more stops paying."
              side="bottom"
            >
              <Plain onClick={() => takeFile(`/api/trials/${trials[0].id}/ladder.html`)}>Report</Plain>
            </Tip>
          )}
          <Plain onClick={close}>Close</Plain>
        </header>
      }
    >
      <div
        className="grid min-h-0 flex-1 content-start gap-3 overflow-y-auto p-4"
        style={{ gridTemplateColumns: `repeat(${across}, minmax(0, 1fr))` }}
      >
        {trials.map((t) => (
          <button
            key={t.id}
            type="button"
            className="min-w-0 text-left"
            title="Shows it in A; with Alt, in B"
            onClick={(e) => {
              const pick = { kind: 'trial', id: t.id } as const;
              useDesk.getState().set(e.altKey || e.shiftKey ? { b: pick } : { a: pick });
              close();
            }}
          >
            <Still picture={stills?.pictures[done.indexOf(t)] ?? null} />
            <span className="mt-1 block break-words">{titleOf(t)}</span>
            <span className="num block text-[11.5px] text-soft">{figures(t)}</span>
          </button>
        ))}
      </div>
      {points.length > 2 && <LadderCurve points={points} label={axes[0]} knee={knee} />}
    </Dialog>
  );
}

const [SHEET_WIDTH, SHEET_HEIGHT, UNDER_PICTURE] = [1180, 510, 56];

/** The least number of columns with which all tiles are in sight, up to six. */
function columnsFor(tiles: number, picture: { width: number; height: number } | null): number {
  const tall = picture ? picture.height / picture.width : 9 / 16;
  for (let columns = 1; columns < 6; columns++) {
    const height = Math.ceil(tiles / columns) * ((SHEET_WIDTH / columns) * tall + UNDER_PICTURE);
    if (height <= SHEET_HEIGHT) return columns;
  }
  return 6;
}

function Still({ picture }: { picture: Stills['pictures'][number] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!picture || !canvas.current) return;
    canvas.current.width = picture.width;
    canvas.current.height = picture.height;
    canvas.current.getContext('2d')!.putImageData(new ImageData(picture.pixels, picture.width, picture.height), 0, 0);
  }, [picture]);
  return picture ? (
    <canvas ref={canvas} className="block w-full" />
  ) : (
    <span className="block aspect-video w-full bg-pit" />
  );
}
