'use client';

import { Film, Pause, Play } from 'lucide-react';
import { useEffect } from 'react';
import { toast } from 'sonner';
import { clock } from '@/core/words';
import { Tip } from '../parts/controls';
import { useClient } from '../state/client';
import { useDesk } from '../state/desk-store';
import { useReady } from '../state/live-store';
import { useMixOverFrames } from '../state/mixing';
import { usePlayer } from '../state/player-store';
import { useDocument, useFrame, usePatient } from '../state/scene-now';

/** The frame looked at, scrubbed or typed; what is kept of the shot's frames plays at its rate. One frame has none of it. */
export function FrameField() {
  const client = useClient();
  const ready = useReady();
  const document = useDocument();
  const frame = useFrame();
  const desk = useDesk();
  const player = usePlayer();
  const patient = usePatient();
  const { first, last, perSecond } = document.frames;
  const live = desk.a.kind === 'live';
  const mixes = useMixOverFrames();
  // A mix is played over frames that are there by light groups.
  const kept = mixes ? player.parted : player.kept;
  useEffect(() => {
    const offReel = client.on('reel', ({ kept, parted }) => usePlayer.setState({ kept, parted }));
    const offPlayed = client.on('played', ({ frame: at }) =>
      usePlayer.setState((s) => (s.playing ? { frame: at } : s)),
    );
    return () => {
      offReel();
      offPlayed();
    };
  }, [client]);
  const play = (on: boolean) => {
    if (usePlayer.getState().playing === on) return;
    usePlayer.setState({ playing: on, frame: null });
    client.send({ type: 'play', on, first, last, perSecond, mixes });
  };
  // What is played are pictures of the live scene as it is: anything else ends it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: `play` reads the store
  useEffect(() => play(false), [frame, live, document, desk.camera, desk.overlay, desk.view]);
  useEffect(() => {
    if (usePlayer.getState().playing) client.send({ type: 'play', on: true, first, last, perSecond, mixes });
  }, [client, mixes, first, last, perSecond]);
  if (first === last) return null;
  const count = last - first + 1;
  const gather = async () => {
    if (!patient || player.gathering) return;
    const frames = Array.from({ length: count }, (_, i) => first + i).filter((f) => !kept.includes(f));
    const abort = new AbortController();
    const startedAt = performance.now();
    const note = (done: number) =>
      usePlayer.setState({ gathering: { done, of: frames.length, startedAt, stop: () => abort.abort() } });
    note(0);
    try {
      await client.ask('gather', { patient, frames }, { signal: abort.signal, onStep: (s) => note(s.done) });
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      usePlayer.setState({ gathering: null });
    }
  };
  const { gathering } = player;
  const leftMs =
    gathering && gathering.done > 0
      ? ((performance.now() - gathering.startedAt) / gathering.done) * (gathering.of - gathering.done)
      : null;
  const button = 'rounded-sm p-0.5 text-soft hover:text-ink disabled:opacity-40';
  return (
    <div className="flex items-center gap-1.5">
      <Tip text={`Frames ${first} to ${last} at ${perSecond} a second.`} side="bottom">
        <label className="flex items-center gap-1.5">
          <span className="text-dim">frame</span>
          <span className="relative flex w-20 items-center">
            <input
              type="range"
              aria-label="frame"
              min={first}
              max={last}
              step={1}
              value={player.frame ?? frame}
              onChange={(e) => desk.set({ frame: Number(e.target.value) })}
              className="h-1 w-20 accent-[#e8e8e8]"
            />
            <span className="pointer-events-none absolute inset-x-0 top-2.5 h-px" data-testid="kept-frames">
              {kept.map((f) => (
                <span
                  key={f}
                  className="absolute h-[2px] bg-soft"
                  style={{ left: `${((f - first) / count) * 100}%`, width: `${100 / count}%` }}
                />
              ))}
            </span>
          </span>
          <span className="num w-5" data-testid="frame">
            {player.frame ?? frame}
          </span>
        </label>
      </Tip>
      <Tip
        text={`Plays the pictures kept of ${kept.length} of ${count} frames${mixes ? ', in the mix at hand' : ''}, ${perSecond} a second; where one is missing the one before it stays.`}
        side="bottom"
      >
        <button
          type="button"
          aria-label={player.playing ? 'stop playing' : 'play kept frames'}
          className={button}
          disabled={!live || kept.length < 2}
          onClick={() => play(!player.playing)}
        >
          {player.playing ? <Pause size={14} /> : <Play size={14} />}
        </button>
      </Tip>
      {gathering ? (
        <button type="button" className="num text-[11px] text-soft hover:text-ink" onClick={gathering.stop}>
          {gathering.done}/{gathering.of}
          {leftMs !== null && ` · ${clock(leftMs / 1000)}`} · Stop
        </button>
      ) : (
        <Tip
          text="Renders a coarse picture of each frame that none is kept of, about a second each. Frames looked at for longer keep their finer picture."
          side="bottom"
        >
          <button
            type="button"
            aria-label="gather missing frames"
            className={button}
            disabled={!live || !ready || !patient || kept.length >= count}
            onClick={() => void gather()}
          >
            <Film size={14} />
          </button>
        </Tip>
      )}
    </div>
  );
}
