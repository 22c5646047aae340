import { depthCurve, LEDGER_LAYERS } from '@/core/film';
import { type Display, displayOf, type Look, scaleOf } from '@/core/image';
import { PATH_CLASSES } from '@/core/kernel';
import { type Camera, lightGroups, type SceneDocument, writeGlb } from '@/core/scene';
import { pictureErrors } from '@/core/stats';
import { brightest } from './brightest';
import { tryCures } from './cures/try-cures';
import { adviseDepth } from './depth-advice';
import { diagnose } from './diagnosis/diagnose';
import { lightEffects } from './diagnosis/light-effects';
import { FilmCache, fetchPreview } from './film-cache';
import { measureRelit, measureTally } from './film-measures';
import type {
  AgainstB,
  Area,
  FromFilm,
  Seen,
  Slot,
  SmallPicture,
  Source,
  SpaceGeometry,
  ToFilm,
  WithinBoth,
} from './film-protocol';
import { headroom } from './headroom';
import { histogram } from './histogram';
import { hours } from './hours';
import type { Inspector } from './inspector';
import { LiveRender } from './live';
import { axialDepth, cameraOf, groupsOf, probe, seeAt } from './looking';
import { overlap, type Shown, within } from './overlap';
import { RenderPool } from './pool';
import type { Tracer } from './protocol';
import { gatherFrames, Reel } from './reel';
import { encodedPixels, linearPixels, referencePicture } from './reference-picture';
import { cameraNamed, SceneLoader } from './scenes';
import { measureSequence } from './sequence';
import { spaceGeometry } from './space-geometry';
import { stillsOf } from './stills';
import { Swatches } from './swatches';
import { relativeTimes, Tuning } from './tuning';
import { layersFor, show, type View } from './view';

/**
 * The page's film worker: runs the live picture, keeps films of trials, and turns whatever is looked at
 * into screen pixels, so that the page's own thread only draws.
 */
const post = (message: FromFilm, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(message, transfer);

const cache = new FilmCache();
const sources: Record<Slot, Source | null> = { A: { kind: 'live' }, B: null };
const shown: Record<Slot, Shown | null> = { A: null, B: null };
const turn: Record<Slot, number> = { A: 0, B: 0 };
let views: Record<Slot, View> = { A: { kind: 'color', layer: 'beauty' }, B: { kind: 'color', layer: 'beauty' } };
let exposure: Display = 1;
let sceneExposure: Display = 1;
let live: LiveRender | null = null;
let pool: RenderPool | null = null;
let edits = 0;
const reel = new Reel();
let playing: number | null = null;

async function fetchContent(hash: string, again = 2): Promise<Uint8Array> {
  let r: Response;
  try {
    r = await fetch(`/api/blobs/${hash}`);
  } catch {
    // A server that is just starting, or a line that broke.
    if (again === 0) throw new Error('content of the scene could not be loaded: the server cannot be reached');
    await new Promise((resolve) => setTimeout(resolve, 700));
    return fetchContent(hash, again - 1);
  }
  if (!r.ok) throw new Error(`content of the scene could not be loaded (${r.status})`);
  return new Uint8Array(await r.arrayBuffer());
}
const loader = new SceneLoader((hash) => fetchContent(hash));
let dirty = false;
/** Ends of the scale that A was last painted on. */
let scaleOfA: [number, number] | null = null;

function spawn(): Tracer {
  const worker = new Worker(new URL('./trace.worker.ts', import.meta.url), { type: 'module' });
  return {
    post: (message) => worker.postMessage(message),
    listen: (onMessage, onFailure) => {
      worker.onmessage = (event) => onMessage(event.data);
      worker.onerror = (event) => onFailure(new Error(event.message || 'a tracing thread failed'));
      worker.onmessageerror = () => onFailure(new Error('a tracing thread sent what cannot be read'));
    },
    terminate: () => worker.terminate(),
  };
}

async function open(threads: number): Promise<void> {
  const module = await WebAssembly.compileStreaming(fetch('/wasm/kernel.wasm'));
  pool = new RenderPool(module, spawn, threads);
  live = new LiveRender(pool, () => {
    dirty = true;
  });
  live.failed = (error) => post({ type: 'fault', message: error.message });
}

/** Takes edits one after another; one that has been overtaken meanwhile is left out. */
async function follow(message: Extract<ToFilm, { type: 'live' }>): Promise<void> {
  const mine = ++edits;
  const { document, recipe, frame } = message;
  const scene = await loader.checked(document);
  if (mine !== edits || !live) return;
  liveGroups = lightGroups(document);
  const camera = cameraNamed(scene, message.camera) ?? document.cameras[0];
  noteReel(message);
  live.start({ scene, recipe, camera, frame });
}

let followed: Extract<ToFilm, { type: 'live' }> | null = null;
/** Keeps the pictures of other frames only while nothing but the frame has changed. */
function noteReel(message: Extract<ToFilm, { type: 'live' }>): void {
  const before = followed;
  followed = message;
  // An edit leaves the frame as it is: only another frame asks for a look at all the rest.
  const rest = (m: typeof message) => JSON.stringify([m.camera, m.recipe, m.document]);
  if (before && before.frame !== message.frame && rest(before) === rest(message)) return;
  if (reel.clear()) postReel();
}

const postReel = () => post({ type: 'reel', kept: reel.kept() });

/** Shows kept frames one after another at the shot's rate. */
function play(message: Extract<ToFilm, { type: 'play' }>): void {
  if (playing !== null) clearInterval(playing);
  playing = null;
  if (!message.on) {
    void refresh('A');
    return;
  }
  const { first, last, perSecond } = message;
  const since = performance.now();
  let shownFrame: number | null = null;
  playing = setInterval(() => {
    const due = reel.at((performance.now() - since) / 1000, first, last, perSecond);
    if (!due || due[0] === shownFrame) return;
    const [frame, { width, height, place, pixels }] = due;
    shownFrame = frame;
    const copy = pixels.slice().buffer;
    post({ type: 'picture', slot: 'A', width, height, place, pixels: copy, legend: null }, [copy]);
    post({ type: 'played', frame });
  }, 500 / perSecond) as unknown as number;
}

/** A display transform of a scale and a look. */
function lookedAt(scale: number, look: Look): Display {
  const plain = displayOf({ ev100: null, stops: 0 }, look);
  return typeof plain === 'number' ? scale : { scale, look };
}

/** The film a slot shows, with the layers its view needs. */
async function filmOf(slot: Slot): Promise<Shown | null> {
  const source = sources[slot];
  const view = views[slot];
  if (!source) return null;
  if (source.kind === 'live') {
    const names = live ? layersFor(view, view.kind === 'tally' ? liveParts(view.parting) : []) : [];
    const film = live?.layers(names) ?? null;
    const place = live?.place();
    return film && place ? { film, place } : null;
  }
  if (source.kind === 'preview') {
    const film = await fetchPreview(source.id);
    return film ? { film, place: source.frame } : null;
  }
  if (source.kind === 'reference') return referencePicture(source.content, fetchContent);
  return { film: await cache.film(source.id, layersFor(view, source.layers)), place: source.frame };
}

let liveGroups: string[] = [];
function liveParts(parting: string): string[] {
  return parting === 'group' ? liveGroups.map((g) => `group.${g}`) : PATH_CLASSES.map((c) => `class.${c}`);
}

async function refresh(slot: Slot): Promise<void> {
  const mine = ++turn[slot];
  const source = sources[slot];
  if (!source) {
    shown[slot] = null;
    return;
  }
  try {
    const got = await filmOf(slot);
    if (mine !== turn[slot]) return;
    shown[slot] = got;
    if (!got) {
      post({ type: 'absent', slot, reason: source.kind === 'live' ? liveWaits() : 'waiting for the first picture' });
      return;
    }
    paint(slot);
  } catch (error) {
    if (mine === turn[slot]) post({ type: 'absent', slot, reason: (error as Error).message });
  }
}

/** Why the live picture is not there yet. */
function liveWaits(): string {
  if (live?.fault) return live.fault;
  const state = live?.status().state;
  if (state === 'paused') return 'the live picture waits while a trial is timed';
  if (state === 'halted' && !live?.isWanted) return 'the live picture is off; L starts it';
  return 'the first picture is on its way';
}

function paint(slot: Slot): void {
  const whole = shown[slot];
  const against = againstB(views[slot]) ? shown[slot === 'A' ? 'B' : 'A'] : null;
  const both = whole && against ? overlap(whole, against) : null;
  const got = both?.a ?? whole;
  if (!got || (slot === 'A' && playing !== null)) return;
  const view = views[slot];
  const noiseScale = view.kind === 'noise' ? sceneExposure : exposure;
  // Side by side both read on A's scale.
  const scale = slot === 'B' && JSON.stringify(views.A) === JSON.stringify(view) ? scaleOfA : null;
  const result =
    (got.encoded ? { pixels: encodedPixels(got.film), legend: null } : null) ??
    show(got.film, view, noiseScale, both?.b.film ?? null, scale) ??
    // A film that lacks what the view needs is shown as it is.
    (got.film.layers.has('beauty') ? show(got.film, { kind: 'color', layer: 'beauty' }, exposure, null) : null);
  if (!result) {
    post({ type: 'absent', slot, reason: 'this film does not hold that layer' });
    return;
  }
  if (slot === 'A' && !result.legend) keepFrame(view, got, result.pixels);
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
    },
    [pixels],
  );
  if (rescaled) paint('B');
}

/** Keeps what the live picture shows of a frame of several, for playing. */
function keepFrame(view: View, { film, place }: Shown, pixels: Uint8ClampedArray): void {
  const plain = view.kind === 'color' && view.layer === 'beauty' && sources.A?.kind === 'live';
  if (!plain || !live || !followed || place.w !== place.width || place.h !== place.height) return;
  const { first, last } = followed.document.frames;
  const { frame, samples } = live.finePicture();
  if (first === last || samples === 0 || frame !== followed.frame) return;
  const { width, height } = film;
  if (!reel.wants(frame, { width, height, samples })) return;
  if (reel.keep(frame, { width, height, place, samples, pixels: pixels.slice() as Uint8ClampedArray<ArrayBuffer> }))
    postReel();
}

async function handle(message: ToFilm): Promise<void> {
  switch (message.type) {
    case 'open':
      await open(message.threads);
      post({ type: 'status', status: live!.status() });
      return;
    case 'live':
      await follow(message);
      return;
    case 'halt':
      edits++;
      live?.halt();
      dirty = true;
      return;
    case 'pause':
      live?.pause(message.on);
      dirty = true;
      return;
    case 'show':
      sources[message.slot] = message.source;
      await refresh(message.slot);
      if (againstB(views.A) && message.slot === 'B') await refresh('A');
      return;
    case 'view':
      views = { A: message.a, B: message.b };
      if (reel.about(JSON.stringify([message.exposure, message.look]))) postReel();
      exposure = lookedAt(message.exposure, message.look);
      sceneExposure = lookedAt(message.sceneExposure, message.look);
      await Promise.all([refresh('A'), refresh('B')]);
      if (againstB(views.A)) paint('A');
      return;
    case 'probe':
      post({
        type: 'probed',
        id: message.id,
        a: probe(shown.A, views.A, message.x, message.y),
        b: probe(shown.B, views.B, message.x, message.y),
        depth: message.look && depthAt(message.look, message.x, message.y),
      });
      return;
    case 'play':
      play(message);
      return;
    case 'cancel':
      cancels.get(message.id)?.abort();
      return;
    case 'measure':
      try {
        post({ type: 'measured', id: message.id, result: await measure(message) });
      } catch (error) {
        post({ type: 'refused', id: message.id, message: (error as Error).message });
      } finally {
        cancels.delete(message.id);
      }
  }
}

const againstB = (view: View) => view.kind === 'difference' || view.kind === 'flip';

const cancels = new Map<number, AbortController>();

/** Answers a question about a film or the live scene. */
async function measure(m: Extract<ToFilm, { type: 'measure' }>): Promise<unknown> {
  if (m.what === 'relit') return measureRelit(cache, m);
  if (m.what === 'tally') return measureTally(cache, m);
  if (m.what === 'depth') return depthOfA();
  if (m.what === 'errors') return errorsOfA();
  if (m.what === 'within') return withinBoth(m.area);
  if (m.what === 'headroom') {
    const halves = m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
    const film = await cache.film(m.trial, halves);
    return headroom(film, m.groups, m.target, sceneExposure, () => new Promise((done) => setTimeout(done, 0)));
  }
  if (m.what === 'stills') {
    const beauty = async (t: (typeof m.trials)[number]) => ({
      film: await cache.film(t.id, ['beauty']),
      place: t.frame,
    });
    return stillsOf(await Promise.all(m.trials.map(beauty)), m.area, sceneExposure);
  }
  if (m.what === 'histogram') return shown.A ? histogram(shown.A.film, m.exposure) : null;
  if (!live) throw new Error('the scene is still being opened');
  const cancel = new AbortController();
  cancels.set(m.id, cancel);
  const sceneOf = (document: SceneDocument) => loader.checked(document);
  const { signal } = cancel;
  switch (m.what) {
    case 'see':
      return seeAt(inspectorNow(), m.patient, m.x, m.y, {
        rgb: probe(shown.A, views.A, m.x, m.y)?.values,
        groups: groupsAt(m.x, m.y),
      });
    case 'trails':
      return inspectorNow().trails(m.patient.recipe, cameraOf(m.patient), m.patient.frame, m.x, m.y, m.samples);
    case 'diagnosis':
      return live.borrow((pool) => diagnose(pool, sceneOf, m.patient, stepped(m.id, signal)));
    case 'effects':
      return live.borrow((pool) => lightEffects(pool, sceneOf, m.patient, signal));
    case 'glb': {
      const bytes = writeGlb(m.document, await loader.twin().checked(m.document));
      return bytes.buffer;
    }
    case 'geometry':
      return geometryOf(m.document);
    case 'swatch':
      return swatch(m.document, m.size);
    case 'tune': {
      if (m.ifKnown && !tuning.has(m.patient, m.moods)) return null;
      return live.borrow((pool) =>
        tuning.ask(pool, sceneOf, m.patient, m.goal, m.threads, { ...stepped(m.id, signal), moods: m.moods }),
      );
    }
    case 'cures':
      return live.borrow((pool) => tryCures(pool, sceneOf, m.patient, m.threads, stepped(m.id, signal)));
    case 'sequence':
      return live.borrow((pool) => measureSequence(pool, sceneOf, m.patient, m.threads, stepped(m.id, signal)));
    case 'saving':
      return live.borrow(async (pool) => {
        const scene = await sceneOf(m.patient.document);
        const [, ratio] = await relativeTimes(
          pool,
          [m.patient.recipe, m.to].map((recipe) => ({ scene, recipe })),
          m.patient,
          signal,
        );
        return ratio;
      });
    case 'advice':
      return live.borrow((pool) => adviseDepth(pool, sceneOf, m.patient, m.axis, stepped(m.id, signal)));
    case 'brightest':
      return brightest(await sceneOf(m.patient.document), cameraOf(m.patient), m.patient);
    case 'gather':
      return live.borrow((pool) =>
        gatherFrames(
          pool,
          sceneOf,
          m.patient,
          m.frames,
          live!.lastSpeed(),
          (frame, picture) => {
            reel.keep(frame, picture);
            postReel();
          },
          { signal, onStep: (done, of) => post({ type: 'step', id: m.id, done, of, words: 'frames' }) },
        ),
      );
    case 'hours':
      return live.borrow((pool) => hours(pool, sceneOf, m.patient, m.suns, m.width, signal));
  }
}

/** What long work is given: its stop, and somebody who hears how far it has come. */
const stepped = (id: number, signal: AbortSignal) => ({
  signal,
  onStep: (done: number, of: number, words: string) => post({ type: 'step', id, done, of, words }),
});

const tuning = new Tuning();

/** How far A is from B; throws in words where they do not compare. */
async function errorsOfA(): Promise<AgainstB> {
  const [a, b] = await Promise.all((['A', 'B'] as const).map((slot) => plainFilm(slot)));
  if (!a || !b) throw new Error('one of the pictures is not there yet');
  const both = overlap(a, b);
  if (!both) {
    const size = ({ place: p }: Shown) => `${p.width}×${p.height}`;
    throw new Error(
      size(a) === size(b)
        ? 'A and B show regions that have no pixel in common'
        : `A is of a frame of ${size(a)} pixels, B of ${size(b)}: render both at one size`,
    );
  }
  const { width, height } = both.a.film;
  const [reference, test] = [both.b, both.a].map((s) => linearPixels(s, scaleOf(sceneExposure)));
  return { errors: pictureErrors(reference, test, width, height, sceneExposure).errors };
}

const FIGURED = ['half_a', 'half_b', 'cost'];

/** Noise and share of the time of a part of A and B. */
async function withinBoth(area: Area): Promise<WithinBoth> {
  const of = async (slot: Slot) => {
    const source = sources[slot];
    if (source?.kind === 'trial')
      return within({ film: await cache.film(source.id, FIGURED), place: source.frame }, area, sceneExposure);
    const place = live?.place();
    const film = source?.kind === 'live' ? live?.layers(FIGURED) : null;
    return film && place ? within({ film, place }, area, sceneExposure) : null;
  };
  const [a, b] = await Promise.all([of('A'), of('B')]);
  return { a, b };
}

/** The beauty of a slot, whatever view it shows. */
async function plainFilm(slot: Slot): Promise<Shown | null> {
  const source = sources[slot];
  if (source?.kind === 'trial') return { film: await cache.film(source.id, ['beauty']), place: source.frame };
  return source ? filmOf(slot) : null;
}

/** The depth curve of what A shows. */
async function depthOfA() {
  const source = sources.A;
  if (source?.kind === 'live') {
    const film = live?.layers(LEDGER_LAYERS);
    return film ? depthCurve(film, sceneExposure) : null;
  }
  if (source?.kind !== 'trial' || !source.layers.includes(LEDGER_LAYERS[0])) return null;
  const names = source.layers.includes('lost') ? [...LEDGER_LAYERS, 'lost'] : LEDGER_LAYERS;
  return depthCurve(await cache.film(source.id, names), sceneExposure);
}

/** Looks into the live scene while it is being traced. */
function inspectorNow(): Inspector {
  const inspector = pool?.inspector();
  if (!inspector) throw new Error('the scene is still being opened');
  return inspector;
}

function depthAt(look: { camera: Camera; frame: number; aspect: number }, x: number, y: number): number | null {
  const sight = pool?.inspector()?.see(look.camera, look.frame, look.aspect, x, y);
  if (!sight || !Number.isFinite(sight.metres)) return null;
  return axialDepth(look.camera, look.frame, sight.position);
}

/** What each light group brings to a point of the live picture. */
function groupsAt(x: number, y: number): Seen['groups'] {
  const film = sources.A?.kind === 'live' ? live?.layers(liveParts('group')) : null;
  const place = live?.place();
  return film && place ? groupsOf({ film, place }, liveGroups, x, y) : [];
}

/** Triangles of the live scene for the working view of the space. */
async function geometryOf(document: SceneDocument): Promise<SpaceGeometry> {
  const scene = await loader.checked(document);
  return spaceGeometry(scene);
}

/** The worker's own pool of one thread for swatches, so that they never disturb the picture. */
let swatches: Swatches | null = null;
async function swatch(document: SceneDocument, size: number): Promise<SmallPicture> {
  if (!pool) throw new Error('the scene is still being opened');
  const own = loader.twin();
  swatches ??= new Swatches(new RenderPool(pool.module, spawn, 1), (d) => own.checked(d));
  return swatches.draw(document, size);
}

self.onmessage = (event: MessageEvent<ToFilm>) => {
  handle(event.data).catch((error) => post({ type: 'fault', message: (error as Error).message }));
};

let idle = 0;
setInterval(() => {
  if (!live) return;
  if (dirty) {
    dirty = false;
    idle = 0;
    for (const slot of ['A', 'B'] as const) if (sources[slot]?.kind === 'live') void refresh(slot);
    post({ type: 'status', status: live.status() });
  } else if (idle++ === 5) post({ type: 'status', status: live.status() });
}, 110);
