'use client';

import { ChevronDown, Pause, Play, Square } from 'lucide-react';
import { toast } from 'sonner';
import { isOver, type Run, type RunLine } from '@/contract/run';
import { bytes, clock, counted, percent, two } from '@/core/words';
import { Plain, Primary, Stat, Tip, Word } from '../../parts/controls';
import { Menu, MenuItem, MenuLine } from '../../parts/menu';
import { api } from '../../state/api';
import { useDesk } from '../../state/desk-store';
import { useHouse } from '../../state/house';
import { saying } from '../../state/log-trial';
import { showFrame, useRun } from '../../state/runs';
import { Fact } from './fact';
import { Movies } from './movies';
import { recipeWords } from './recipe-words';
import { Take } from './take';
import { betweenTimes, runLeft, timeOfDay } from './times';
import { WantedField, wantedWords } from './wanted';

/** A run that has been started: how far it is, when it is done, what it delivered, and what can be done about it. */
export function RunDetails({ run }: { run: RunLine }) {
  const whole = useRun(run.id);
  const house = useHouse();
  const isOn = run.state === 'on' && !isOver(run);
  const workers = Math.max(1, house?.workers ?? 1);
  const left = whole && isOn ? runLeft(whole, workers) : null;
  const one = whole && isOn && left ? runLeft(whole, workers + 1) : null;
  const { counts, files } = run;
  return (
    <>
      <div className="flex border-b border-line">
        <Stat
          title="Delivered"
          value={<span data-testid="run-done">{counts.done}</span>}
          beside={`of ${counts.all}`}
          tip={`Frames that are rendered and whose files are packed, each in ${run.pictures === 1 ? 'its one picture' : `all ${run.pictures} pictures`}.`}
        />
        <Stat
          title="Left"
          value={<span data-testid="run-left">{isOver(run) ? '–' : left ? clock(left.value) : '–'}</span>}
          beside={left ? `${clock(left.low)}–${clock(left.high)}` : isOn ? 'after 3 frames' : undefined}
          tip="Time by the clock until all frames are done, by what the frames about each took; told once three of each picture are there."
        />
        <WorstStat whole={whole} />
      </div>
      <div className="flex flex-wrap items-center gap-1.5 border-b border-line px-3.5 py-2">
        <Actions run={run} />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto py-2">
        {left && (
          <Fact words="done" testid="run-end">
            <span className="num">{timeOfDay(left.value)}</span>{' '}
            <span className="num text-dim">({betweenTimes(left)})</span>
            {one && <p className="num text-dim">{timeOfDay(one.value)} with one more worker</p>}
          </Fact>
        )}
        <WantedFact run={run} whole={whole} workers={workers} isOn={isOn} />
        <Fact words="frames">
          <span className="num break-all">{run.frames}</span> through {run.camera}
        </Fact>
        <Fact words="into" testid="run-folder">
          <button
            type="button"
            className="num text-left text-[11.5px] break-all hover:underline"
            onClick={() =>
              void navigator.clipboard?.writeText(run.folder).then(() => toast('The folder’s name is copied'))
            }
          >
            {run.folder}
          </button>
          <p className="text-dim">
            {counted(files.placed, 'file')} there
            {files.packed > files.placed ? `, ${files.packed - files.placed} on their way` : ''}
            {' · '}
            {bytes(files.bytes)}
          </p>
          {files.packed > files.placed && house?.delivers === false && (
            <p role="alert">
              They wait: no worker puts files into folders. Start one on the server’s machine with{' '}
              <span className="num break-all">LANTERN_DELIVERS=on bin/lantern worker</span>
            </p>
          )}
        </Fact>
        {run.fault && (
          <div className="mx-3.5 my-1 border border-line px-2 py-1.5" role="alert">
            <p>Not put into the folder: {run.fault}.</p>
            <Word className="-ml-1.5 underline" onClick={() => saying(api.placeAgain(run.id, false))}>
              try again
            </Word>
            <Word className="underline" onClick={() => saying(api.placeAgain(run.id, true))}>
              write over what is there
            </Word>
          </div>
        )}
        <Movies run={run} />
        {whole && <Frozen whole={whole} />}
        {whole && <Machines whole={whole} />}
        {whole && <Faults whole={whole} />}
      </div>
    </>
  );
}

/** When it is wanted, and whether it will be there. */
function WantedFact({
  run,
  whole,
  workers,
  isOn,
}: {
  run: RunLine;
  whole: Run | null;
  workers: number;
  isOn: boolean;
}) {
  const { wantedAt, endedAt } = run;
  if (isOver(run)) {
    if (wantedAt === null || endedAt === null) return null;
    const spare = (new Date(wantedAt).getTime() - new Date(endedAt).getTime()) / 1000;
    return (
      <Fact words="wanted by" testid="run-wanted">
        <span className="num">{new Date(wantedAt).toLocaleString()}</span>: done {clock(Math.abs(spare))}{' '}
        {spare >= 0 ? 'before' : 'after'}
      </Fact>
    );
  }
  const left = whole && isOn ? runLeft(whole, workers) : null;
  return (
    <Fact words="wanted by">
      <span className="flex items-center gap-1">
        <WantedField value={wantedAt} onChange={(at) => saying(api.editRun(run.id, { wantedAt: at }))} />
      </span>
      {wantedAt !== null && left && (
        <p data-testid="in-time">{wantedWords(wantedAt, (w) => runLeft(whole!, w)!, workers)}</p>
      )}
    </Fact>
  );
}

/** The noisiest frame that is done, which a click shows. */
function WorstStat({ whole }: { whole: Run | null }) {
  const done = (whole?.rows ?? []).filter((r) => r.state === 'done' && r.noise !== null);
  const worst = done.reduce<(typeof done)[number] | null>((a, r) => (a && a.noise! >= r.noise! ? a : r), null);
  return (
    <Stat
      title="Noisiest"
      value={
        <button
          type="button"
          disabled={!worst}
          className="hover:underline"
          onClick={() => worst && void showFrame(worst.id)}
        >
          {percent(worst?.noise)}
        </button>
      }
      beside={worst ? `at ${worst.frame}` : undefined}
      tip="Noise of the frame that has the most, in percent of display white. A click shows it in A."
    />
  );
}

function Actions({ run }: { run: RunLine }) {
  const edit = (change: Parameters<typeof api.editRun>[1]) => saying(api.editRun(run.id, change));
  const again = (which: 'failed' | 'missing') =>
    saying(
      api.againFrames(run.id, { which, urgent: false }).then(({ frames }) => {
        toast(
          frames === 0 ? 'All files are there as they were delivered' : `${counted(frames, 'frame')} rendered again`,
        );
      }),
    );
  const over = isOver(run);
  const remove = () => {
    edit({ removed: true });
    useDesk.getState().set({ run: null });
    toast(`Run ${two(run.number)} taken out of the list; its files stay`, {
      action: { label: 'Undo', onClick: () => saying(api.editRun(run.id, { removed: false })) },
    });
  };
  return (
    <>
      {!over &&
        (run.state === 'on' ? (
          <Tip text="Frames under way are kept as far as they are, and go on from there." side="bottom">
            <Plain className="!px-2 !py-1" onClick={() => edit({ state: 'paused' })}>
              <Pause size={13} aria-hidden="true" /> Pause
            </Plain>
          </Tip>
        ) : (
          <Primary onClick={() => edit({ state: 'on' })}>
            <Play size={13} aria-hidden="true" /> Go on
          </Primary>
        ))}
      {!over && (
        <Tip text="Ends the run: frames that are not done are left unmade, what is delivered stays." side="bottom">
          <Plain className="!px-2 !py-1" onClick={() => edit({ state: 'stopped' })}>
            <Square size={12} aria-hidden="true" /> Stop
          </Plain>
        </Tip>
      )}
      {over && run.counts.left > 0 && (
        <Primary onClick={() => edit({ state: 'on' })}>
          <Play size={13} aria-hidden="true" /> Go on with {run.counts.left}
        </Primary>
      )}
      <Menu
        trigger={
          <Plain className="!px-2 !py-1">
            Again <ChevronDown size={12} aria-hidden="true" />
          </Plain>
        }
        width="min-w-64"
      >
        <MenuItem disabled={run.counts.failed === 0} onSelect={() => again('failed')}>
          frames that failed
          <span className="num opacity-60">{run.counts.failed}</span>
        </MenuItem>
        <MenuItem disabled={run.files.placed === 0} onSelect={() => again('missing')}>
          frames whose files are gone or changed
        </MenuItem>
      </Menu>
      <Menu
        trigger={
          <Plain className="!px-2 !py-1">
            Order <ChevronDown size={12} aria-hidden="true" />
          </Plain>
        }
        width="min-w-56"
      >
        {([1, 0, -1] as const).map((p) => (
          <MenuItem key={p} onSelect={() => edit({ priority: p })}>
            {p > 0 ? 'before other runs' : p === 0 ? 'as runs were started' : 'after other runs'}
            {run.priority === p && <span className="opacity-60">now</span>}
          </MenuItem>
        ))}
        <MenuLine />
        <MenuItem onSelect={remove}>take out of the list</MenuItem>
      </Menu>
      <span className="flex-1" />
      <Take run={run} />
    </>
  );
}

/** What the run was started from. */
function Frozen({ whole: { recipe, outputs, variants } }: { whole: Run }) {
  return (
    <>
      <Fact words="by">
        <span className="num">{recipeWords(recipe)}</span>
      </Fact>
      <Fact words="delivers">
        {outputs.list.map((o) => o.name).join(', ')}
        {variants.some((v) => v !== null) && (
          <span className="text-dim"> in {counted(variants.length, 'picture')}</span>
        )}
      </Fact>
    </>
  );
}

/** What each machine has done of a run. */
function Machines({ whole: { rows } }: { whole: Run }) {
  const names = [...new Set(rows.flatMap((r) => r.machine ?? []))].sort();
  if (names.length === 0) return null;
  return (
    <Fact words="rendered on">
      {names.map((name) => {
        const own = rows.filter((r) => r.machine === name);
        const done = own.filter((r) => r.state === 'done' && r.seconds !== null);
        const busy = own.find((r) => r.state === 'rendering' || r.state === 'storing');
        const mean = done.reduce((s, r) => s + r.seconds!, 0) / Math.max(1, done.length);
        return (
          <p key={name}>
            <span className="num">{name}</span>{' '}
            <span className="text-dim">
              {counted(done.length, 'frame')}
              {done.length > 0 && `, ${clock(mean)} each`}
              {busy && `; now frame ${busy.frame}, ${Math.round(busy.fraction * 100)} %`}
            </span>
          </p>
        );
      })}
    </Fact>
  );
}

/** Frames that failed, each with why. */
function Faults({ whole: { rows } }: { whole: Run }) {
  const failed = rows.filter((r) => r.state === 'failed').slice(0, 20);
  if (failed.length === 0) return null;
  return (
    <Fact words="failed">
      {failed.map((r) => (
        <p key={r.id} role="alert">
          frame {r.frame}: {r.fault}
        </p>
      ))}
    </Fact>
  );
}
