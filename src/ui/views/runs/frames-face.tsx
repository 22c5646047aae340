'use client';

import { Pause, Play } from 'lucide-react';
import { type UIEvent, useEffect, useRef, useState } from 'react';
import type { Run, RunFrame } from '@/contract/run';
import { clock, counted, percent } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { useSize } from '../../parts/use-size';
import { api } from '../../state/api';
import { useDesk } from '../../state/desk-store';
import { togglePlaying, useFramesPlaying } from '../../state/frames-playing';
import { saying } from '../../state/log-trial';
import { usePlaying } from '../../state/player-store';
import { showFrame, usePickedRun, useRun } from '../../state/runs';
import { FrameChart } from './frame-chart';
import { pictureNames } from './picture-names';

const CELL = 112;
/** Cells beside those in sight that are there already. */
const BEYOND = 4;

/** Every frame of the run that is looked at. */
export function FramesFace() {
  const picked = usePickedRun();
  const run = useRun(picked?.id ?? null);
  useFramesPlaying(run);
  if (!picked)
    return (
      <p className="px-3.5 py-2 text-soft">
        Frames of a run are here once it has been started: put one together at the right.
      </p>
    );
  return run ? <Frames run={run} /> : null;
}

function Frames({ run }: { run: Run }) {
  const { on, picture: wanted } = usePlaying();
  const a = useDesk((s) => (s.a.kind === 'trial' ? s.a.id : null));
  const names = pictureNames(run);
  const picture = wanted < names.length ? wanted : 0;
  const rows = run.rows.filter((r) => r.picture === picture);
  const done = rows.filter((r) => r.state === 'done').length;
  const shown = run.rows.find((r) => r.id === a) ?? null;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-1.5 px-3 pb-2" data-testid="frames">
      <div className="flex h-6 shrink-0 items-center gap-2">
        <Tip text="Plays the frames that are done, at the shot's rate or as fast as they come. B follows with another run's.">
          <Word disabled={done < 2} onClick={togglePlaying} aria-label={on ? 'stop playing the run' : 'play the run'}>
            {on ? <Pause size={13} /> : <Play size={13} />}
          </Word>
        </Tip>
        {names.length > 1 &&
          names.map((name, i) => (
            <Word key={i} on={i === picture} onClick={() => usePlaying.setState({ picture: i })}>
              {name}
            </Word>
          ))}
        <span className="flex-1" />
        {shown ? (
          <About run={run} row={shown} />
        ) : (
          <span className="num text-dim">
            {counted(done, 'frame')} done of {rows.length}
          </span>
        )}
      </div>
      <FrameChart rows={rows} shown={a} onPick={(r) => void showFrame(r.id)} />
      <Strip rows={rows} shown={a} />
    </div>
  );
}

/** The frame that A shows, and what can be done about it. */
function About({ run, row }: { run: Run; row: RunFrame }) {
  const again = (urgent: boolean) => saying(api.againFrames(run.id, { which: [row.id], urgent }));
  const isDone = row.state === 'done' || row.state === 'failed' || row.state === 'stopped';
  return (
    <span className="flex items-center gap-1.5" data-testid="frame-about">
      <span className="num">
        frame {row.frame}
        {row.noise !== null && ` · ${percent(row.noise)}`}
        {row.seconds !== null && row.state === 'done' && ` · ${clock(row.seconds)}`}
        {row.step !== null && (
          <Tip text="How far this frame stands out from what those before and after it lead to expect, in percent of display white: RMS over cells of 1/24 of the width. Even motion gives little; a flash or another recipe much.">
            <span className="text-soft"> · steps {percent(row.step)}</span>
          </Tip>
        )}
        {row.machine && <span className="text-dim"> on {row.machine}</span>}
      </span>
      {isDone ? (
        <>
          <Tip text="Renders this frame again, after what waits. Its files are replaced when it is done.">
            <Word onClick={() => again(false)}>again</Word>
          </Tip>
          <Tip text="Renders this frame again, before all else.">
            <Word onClick={() => again(true)}>again, next</Word>
          </Tip>
        </>
      ) : (
        row.state === 'queued' && (
          <Tip text="Renders this frame before all else.">
            <Word onClick={() => again(true)}>next</Word>
          </Tip>
        )
      )}
    </span>
  );
}

/** Frames as small pictures in a row; only those in sight are in the page. */
function Strip({ rows, shown }: { rows: readonly RunFrame[]; shown: string | null }) {
  const [root, setRoot] = useState<HTMLDivElement | null>(null);
  const { width } = useSize(root);
  const [left, setLeft] = useState(0);
  const first = Math.max(0, Math.floor(left / CELL) - BEYOND);
  const last = Math.min(rows.length, Math.ceil((left + width) / CELL) + BEYOND);
  const at = rows.findIndex((r) => r.id === shown);
  const seen = useRef(-1);
  useEffect(() => {
    if (!root || at < 0 || at === seen.current) return;
    seen.current = at;
    const [from, to] = [at * CELL, (at + 1) * CELL];
    if (from < root.scrollLeft || to > root.scrollLeft + root.clientWidth)
      root.scrollLeft = from - root.clientWidth / 2;
  }, [root, at]);
  return (
    <div
      ref={setRoot}
      className="min-h-0 flex-1 overflow-x-auto overflow-y-hidden"
      onScroll={(e: UIEvent<HTMLDivElement>) => setLeft(e.currentTarget.scrollLeft)}
    >
      <ul className="relative h-full" style={{ width: rows.length * CELL }}>
        {rows.slice(first, last).map((r, i) => (
          <li key={r.id} className="absolute top-0 bottom-0 pr-1.5" style={{ left: (first + i) * CELL, width: CELL }}>
            <Cell row={r} isShown={r.id === shown} />
          </li>
        ))}
      </ul>
    </div>
  );
}

const STATE_WORDS: Record<RunFrame['state'], string> = {
  queued: 'waits',
  rendering: '',
  storing: 'packing',
  waiting: 'waits for those beside it',
  done: '',
  stopped: 'not made',
  failed: 'failed',
};

function Cell({ row, isShown }: { row: RunFrame; isShown: boolean }) {
  const isB = useDesk((s) => s.b?.kind === 'trial' && s.b.id === row.id);
  const can = row.state !== 'queued' && row.state !== 'stopped' && row.state !== 'failed';
  return (
    <button
      type="button"
      disabled={!can && row.state !== 'failed'}
      aria-label={`frame ${row.frame}: show in A; with Alt, in B`}
      aria-pressed={isShown}
      className={`flex h-full w-full flex-col text-left ${isShown ? 'outline-2 -outline-offset-2 outline-a' : isB ? 'outline-2 -outline-offset-2 outline-b' : 'enabled:hover:outline enabled:hover:-outline-offset-1 enabled:hover:outline-soft'}`}
      onClick={(e) => void showFrame(row.id, e.altKey ? 'b' : 'a')}
    >
      <span className="flex min-h-0 w-full flex-1 items-center justify-center overflow-hidden bg-pit text-[11.5px] text-dim">
        {row.state === 'done' ? (
          // biome-ignore lint/performance/noImgElement: a small PNG of our own server needs no optimiser
          <img
            src={`/api/trials/${row.id}/thumbnail?${row.seconds ?? ''}`}
            alt=""
            className="h-full w-full object-contain"
            draggable={false}
          />
        ) : row.state === 'rendering' ? (
          <span className="num">{Math.round(row.fraction * 100)} %</span>
        ) : (
          <span className="px-1.5 text-center">{STATE_WORDS[row.state]}</span>
        )}
      </span>
      <span className="num flex h-4 shrink-0 justify-between px-0.5 text-[10.5px] leading-4">
        <span className="font-semibold">{row.frame}</span>
        <span className="text-soft">
          {row.state === 'done' ? `${percent(row.noise)}${row.seconds === null ? '' : ` ${clock(row.seconds)}`}` : ''}
        </span>
      </span>
    </button>
  );
}
