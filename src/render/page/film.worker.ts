import { helpWithTiles } from '@/core/comp';
import type { FilmLayers } from '@/core/film';
import { type Display, displayOf, type Look } from '@/core/image';
import { lightGroups } from '@/core/scene';
import { RenderPool } from '../pool/pool';
import { cameraNamed } from '../pool/scenes';
import { type Answered, type Asked, QUESTIONS, type QuestionName } from '../questions';
import type { Question } from '../questions/question';
import { overlap, type Shown } from '../views/overlap';
import { isAgainst, show, type View, weighsNoise } from '../views/show';
import { thinned } from '../views/thinned';
import { desk, post } from './desk';
import { LiveRender } from './live';
import { axialDepth, probe } from './probe';
import type { ToFilm } from './protocol';
import { encodedPixels } from './reference-picture';
import { Smoothing } from './smoothing';
import { spawn } from './spawn';
import type { Slot } from './told';

/**
 * The page's film worker: runs the live picture, keeps films of trials, and turns whatever is looked at
 * into screen pixels, so that the page's own thread only draws.
 */
/** Most threads that help with pictures of stacks. */
const MOST_HELPERS = 3;
const turn: Record<Slot, number> = { A: 0, B: 0 };
let edits = 0;
const smoothing = new Smoothing();
/** Whether the live picture is smoothed. */
let smooth = false;
let playing: number | null = null;

let dirty = false;
/** Ends of the scale that A was last painted on. */
let scaleOfA: [number, number] | null = null;

async function open(threads: number): Promise<void> {
  const module = await WebAssembly.compileStreaming(fetch('/wasm/kernel.wasm'));
  desk.pool = new RenderPool(module, spawn, threads);
  desk.live = new LiveRender(desk.pool, () => {
    dirty = true;
  });
  helpWithTiles(() =>
    Array.from({ length: Math.min(MOST_HELPERS, threads) }, () => {
      const helper = spawn();
      helper.listen(
        () => {},
        () => {},
      );
      return (work) => helper.post({ type: 'make tiles', work });
    }),
  );
  desk.live.failed = (error) => post({ type: 'fault', message: error.message });
}

/** Takes edits one after another; one that has been overtaken meanwhile is left out. */
async function follow(message: Extract<ToFilm, { type: 'live' }>): Promise<void> {
  const mine = ++edits;
  const { document, recipe, frame } = message;
  const scene = await desk.loader.checked(document);
  if (mine !== edits || !desk.live) return;
  desk.liveGroups = lightGroups(document);
  const camera = cameraNamed(scene, message.camera) ?? document.cameras[0];
  noteReel(message);
  desk.live.start({ scene, recipe, camera, frame });
}

let followed: Extract<ToFilm, { type: 'live' }> | null = null;
/** Keeps the pictures of other frames only while nothing but the frame has changed. */
function noteReel(message: Extract<ToFilm, { type: 'live' }>): void {
  const before = followed;
  followed = message;
  // An edit leaves the frame as it is: only another frame asks for a look at all the rest.
  const rest = (m: typeof message) => JSON.stringify([m.camera, m.recipe, m.document]);
  if (before && before.frame !== message.frame && rest(before) === rest(message)) return;
  desk.parts.clear();
  if (desk.reel.clear()) desk.reelChanged();
}

/** Shows kept frames one after another at the shot's rate. */
function play(message: Extract<ToFilm, { type: 'play' }>): void {
  if (playing !== null) clearInterval(playing);
  playing = null;
  painted.A = [];
  if (!message.on) {
    void refresh('A');
    return;
  }
  const { first, last, perSecond, mixes } = message;
  const since = performance.now();
  let shownFrame: number | null = null;
  playing = setInterval(() => {
    const seconds = (performance.now() - since) / 1000;
    const due = mixes ? desk.parts.at(seconds, first, last, perSecond) : desk.reel.at(seconds, first, last, perSecond);
    if (!due || due[0] === shownFrame) return;
    const [frame, { place, ...kept }] = due;
    shownFrame = frame;
    const picture = 'pixels' in kept ? { ...kept, pixels: kept.pixels.slice() } : inMix(kept.film, frame, mixes!);
    if (!picture) return;
    const { width, height, pixels } = picture;
    post({ type: 'picture', slot: 'A', width, height, place, pixels: pixels.buffer, legend: null }, [pixels.buffer]);
    post({ type: 'played', frame });
  }, 500 / perSecond) as unknown as number;
}

/** A frame by its light groups as its mix has it. */
function inMix(film: FilmLayers, frame: number, { groups, factors }: Mixes) {
  const shown = show(film, { kind: 'relit', groups, factors: factors[frame] ?? {} }, desk.exposure, null);
  return shown && { width: film.width, height: film.height, pixels: shown.pixels };
}
type Mixes = NonNullable<Extract<ToFilm, { type: 'play' }>['mixes']>;

/** A display transform of a scale and a look. */
function lookedAt(scale: number, look: Look): Display {
  const plain = displayOf({ ev100: null, stops: 0 }, look);
  return typeof plain === 'number' ? scale : { scale, look };
}

/** Shows a slot as it is; `quickly` where somebody waits for it. */
async function refresh(slot: Slot, quickly = false): Promise<void> {
  const mine = ++turn[slot];
  const source = desk.sources[slot];
  if (!source) {
    painted[slot] = [];
    desk.shown[slot] = null;
    return;
  }
  try {
    const got = await desk.filmOf(slot);
    if (mine !== turn[slot]) return;
    const isPainted = isSeen(slot, got);
    desk.shown[slot] = got;
    if (!got) {
      painted[slot] = [];
      post({ type: 'absent', slot, reason: source.kind === 'live' ? liveWaits() : 'waiting for the first picture' });
      return;
    }
    if (isPainted) return;
    if (!quickly && isTooSoon(slot)) {
      dirty = true;
      return;
    }
    if (quickly) paintSoon(slot);
    else paint(slot);
  } catch (error) {
    if (mine === turn[slot]) post({ type: 'absent', slot, reason: (error as Error).message });
  }
}

/** Why the live picture is not there yet. */
function liveWaits(): string {
  if (desk.live?.fault) return desk.live.fault;
  const state = desk.live?.status().state;
  if (state === 'paused') return 'the live picture waits while a trial is timed or denoised';
  if (state === 'halted' && !desk.live?.isWanted) return 'the live picture is off; L starts it';
  return 'the first picture is on its way';
}

/** What a slot was painted of last. */
const painted: Record<Slot, readonly unknown[]> = { A: [], B: [] };
const paintedOf = (slot: Slot, film: unknown) => [film, desk.views[slot], desk.exposure, desk.sceneExposure, smooth];

/** Whether the live picture is on the screen as it is: layers that take long to make stay the same over several sweeps. */
function isSeen(slot: Slot, got: Shown | null): boolean {
  if (!got || desk.sources[slot]?.kind !== 'live' || isAgainst(desk.views.A) || playing !== null) return false;
  return paintedOf(slot, got.film).every((v, i) => v === painted[slot][i]);
}

/** Pauses between two pictures of a stack over the live film, in times of what one takes: rendering goes on beside it. */
const RESTS = 3;
/** When a stack may be made anew of what the live film has become. */
const due: Record<Slot, number> = { A: 0, B: 0 };
const isTooSoon = (slot: Slot) =>
  desk.views[slot].kind === 'stack' && desk.sources[slot]?.kind === 'live' && performance.now() < due[slot];

const isBeauty = (view: View) => view.kind === 'color' && view.layer === 'beauty';

/** Values that a mix reads, above which it is shown thinned first while it is dragged. */
const HEAVY = 4e6;
/** Pixels of a stack, the same. */
const HEAVY_STACK = 1e5;
/** Milliseconds without another mix after which it is shown whole. */
const WHOLE_AFTER_MS = 150;
const whole: Record<Slot, ReturnType<typeof setTimeout> | undefined> = { A: undefined, B: undefined };

/** Paints a stack, or a mix of a large live film, thinned, at once, and whole when no other follows; everything else as it is. */
function paintSoon(slot: Slot): void {
  clearTimeout(whole[slot]);
  const shown = desk.shown[slot];
  const view = desk.views[slot];
  const isHeavy =
    shown &&
    (view.kind === 'stack'
      ? shown.film.width * shown.film.height > HEAVY_STACK
      : view.kind === 'relit' &&
        desk.sources[slot]?.kind === 'live' &&
        shown.film.width * shown.film.height * view.groups.length > HEAVY);
  if (!isHeavy || (slot === 'A' && playing !== null)) {
    paint(slot);
    return;
  }
  const small = thinned(shown.film);
  const quick = show(small, view, desk.exposure, null, null, shown);
  if (!quick) return;
  painted[slot] = paintedOf(slot, shown.film);
  const { width, height } = small;
  post({ type: 'picture', slot, width, height, place: shown.place, pixels: quick.pixels.buffer, legend: null }, [
    quick.pixels.buffer,
  ]);
  whole[slot] = setTimeout(() => paintOrSay(slot), WHOLE_AFTER_MS);
}

/** Paints a slot; what cannot be made is told instead of it. */
function paintOrSay(slot: Slot): void {
  try {
    paint(slot);
  } catch (error) {
    post({ type: 'absent', slot, reason: (error as Error).message });
  }
}

function paint(slot: Slot): void {
  clearTimeout(whole[slot]);
  const film = desk.shown[slot];
  const against = isAgainst(desk.views[slot]) ? desk.shown[slot === 'A' ? 'B' : 'A'] : null;
  const both = film && against ? overlap(film, against) : null;
  const plain = both?.a ?? film;
  if (!plain || (slot === 'A' && playing !== null)) return;
  const view = desk.views[slot];
  painted[slot] = paintedOf(slot, plain.film);
  const live = smooth && desk.sources[slot]?.kind === 'live' && isBeauty(view) ? desk.live : null;
  const got = live ? { ...plain, film: smoothing.of(live, plain.film) } : plain;
  const noiseScale = weighsNoise(view) ? desk.sceneExposure : desk.exposure;
  // Side by side both read on A's scale.
  const scale = slot === 'B' && JSON.stringify(desk.views.A) === JSON.stringify(view) ? scaleOfA : null;
  const since = performance.now();
  const result: ReturnType<typeof show> =
    (got.encoded ? { pixels: encodedPixels(got.film), legend: null } : null) ??
    show(got.film, view, noiseScale, both?.b.film ?? null, scale, got) ??
    // A film that lacks what the view needs is shown as it is.
    (got.film.layers.has('beauty') ? show(got.film, { kind: 'color', layer: 'beauty' }, desk.exposure, null) : null);
  const took = performance.now() - since;
  due[slot] = performance.now() + RESTS * took;
  if (!result) {
    post({ type: 'absent', slot, reason: 'this film does not hold that layer' });
    return;
  }
  if (slot === 'A' && !result.legend && !live) keepFrame(view, got, result.pixels);
  const pixels = result.pixels.buffer;
  const ends: [number, number] | null = result.legend && [result.legend.low, result.legend.high];
  const rescaled = slot === 'A' && JSON.stringify(ends) !== JSON.stringify(scaleOfA);
  if (slot === 'A') scaleOfA = ends;
  post(
    {
      type: 'picture',
      slot,
      width: got.film.width,
      height: got.film.height,
      place: got.place,
      pixels,
      legend: result.legend,
      ...(result.space ? { space: result.space } : {}),
    },
    [pixels],
  );
  if (rescaled) paint('B');
}

/** Keeps what the live picture shows of a frame of several, for playing. */
function keepFrame(view: View, { film, place }: Shown, pixels: Uint8ClampedArray): void {
  const plain = isBeauty(view) && desk.sources.A?.kind === 'live';
  if (!plain || !desk.live || !followed || place.w !== place.width || place.h !== place.height) return;
  const { first, last } = followed.document.frames;
  const { frame, samples } = desk.live.finePicture();
  if (first === last || samples === 0 || frame !== followed.frame) return;
  const { width, height } = film;
  if (!desk.reel.wants(frame, { width, height, samples })) return;
  if (
    desk.reel.keep(frame, { width, height, place, samples, pixels: pixels.slice() as Uint8ClampedArray<ArrayBuffer> })
  )
    desk.reelChanged();
}

async function handle(message: ToFilm): Promise<void> {
  switch (message.type) {
    case 'open':
      await open(message.threads);
      post({ type: 'status', status: desk.live!.status() });
      return;
    case 'live':
      await follow(message);
      // Why there is no picture yet is another reason now.
      dirty = true;
      return;
    case 'halt':
      edits++;
      desk.live?.halt();
      dirty = true;
      return;
    case 'pause':
      desk.live?.pause(message.on);
      dirty = true;
      return;
    case 'show':
      desk.sources[message.slot] = message.source;
      painted[message.slot] = [];
      await refresh(message.slot);
      if (isAgainst(desk.views.A) && message.slot === 'B') await refresh('A');
      return;
    case 'view':
      desk.views = { A: message.a, B: message.b };
      if (desk.reel.about(JSON.stringify([message.exposure, message.look]))) desk.reelChanged();
      desk.exposure = lookedAt(message.exposure, message.look);
      desk.sceneExposure = lookedAt(message.sceneExposure, message.look);
      smooth = message.smooth;
      if (smooth) await smoothing.ready();
      await Promise.all([refresh('A', true), refresh('B', true)]);
      if (isAgainst(desk.views.A)) paint('A');
      return;
    case 'probe':
      post({
        type: 'probed',
        id: message.id,
        a: probe(desk.shown.A, desk.views.A, message.x, message.y),
        b: probe(desk.shown.B, desk.views.B, message.x, message.y),
        depth: message.look && depthAt(message.look, message.x, message.y),
      });
      return;
    case 'play':
      play(message);
      return;
    case 'cancel':
      asking.get(message.id)?.abort();
      return;
    case 'ask':
      await answer(message);
  }
}

const asking = new Map<number, AbortController>();

/** Answers a question; what long work hears of goes to the page under the question's number. */
async function answer({ id, what, asked }: Extract<ToFilm, { type: 'ask' }>): Promise<void> {
  const cancel = new AbortController();
  asking.set(id, cancel);
  // The union of questions is one function of the union of what they are asked.
  const question = QUESTIONS[what] as Question<Asked<QuestionName>, Answered<QuestionName>>;
  try {
    const result = await question(desk, asked, {
      signal: cancel.signal,
      onStep: (done, of, words) => post({ type: 'step', id, done, of, words }),
    });
    post({ type: 'answered', id, answer: result });
  } catch (error) {
    post({ type: 'refused', id, message: (error as Error).message });
  } finally {
    asking.delete(id);
  }
}

/** Metres along a camera's axis to what lies under a point of the live scene; null for nothing. */
function depthAt(look: NonNullable<Extract<ToFilm, { type: 'probe' }>['look']>, x: number, y: number): number | null {
  const sight = desk.pool?.inspector()?.see(look.camera, look.frame, look.aspect, x, y);
  if (!sight || !Number.isFinite(sight.metres)) return null;
  return axialDepth(look.camera, look.frame, sight.position);
}

/** What follows an opening waits for it, in its order: without the kernel there is nothing that could be started or stopped. */
let opened: Promise<void> = Promise.resolve();
self.onmessage = ({ data }: MessageEvent<ToFilm>) => {
  const handled = opened
    .then(() => handle(data))
    .catch((error) => post({ type: 'fault', message: (error as Error).message }));
  if (data.type === 'open') opened = handled;
};

/** Held until the worker ends, however it does: so the page knows that it has. */
const lock = `lantern-film-${crypto.randomUUID()}`;
navigator.locks
  ?.request(lock, () => {
    post({ type: 'alive', lock });
    return new Promise(() => {});
  })
  .catch(() => {});

let idle = 0;
setInterval(() => {
  if (!desk.live) return;
  if (dirty) {
    dirty = false;
    idle = 0;
    for (const slot of ['A', 'B'] as const) if (desk.sources[slot]?.kind === 'live') void refresh(slot);
    post({ type: 'status', status: desk.live.status() });
  } else if (idle++ === 5) post({ type: 'status', status: desk.live.status() });
}, 110);
