import { type FilmLayers, relight, tally } from '@/core/film';
import { PATH_CLASSES } from '@/core/kernel';
import { lightGroups } from '@/core/scene';
import { noiseOf, type Rgb } from '@/core/stats';
import { FilmCache, fetchPreview } from './film-cache';
import type { FromFilm, Placement, ProbeValue, RelitMeasure, Slot, Source, ToFilm } from './film-protocol';
import { LiveRender } from './live';
import { RenderPool } from './pool';
import type { Tracer } from './protocol';
import { cameraNamed, SceneLoader } from './scenes';
import { layersFor, show, type View } from './view';

/**
 * The page's film worker: runs the live picture, keeps films of trials, and turns whatever is looked at
 * into screen pixels, so that the page's own thread only draws.
 */
const post = (message: FromFilm, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(message, transfer);

const cache = new FilmCache();
const sources: Record<Slot, Source | null> = { A: { kind: 'live' }, B: null };
const shown: Record<Slot, { film: FilmLayers; place: Placement } | null> = { A: null, B: null };
const turn: Record<Slot, number> = { A: 0, B: 0 };
let views: Record<Slot, View> = { A: { kind: 'color', layer: 'beauty' }, B: { kind: 'color', layer: 'beauty' } };
let exposure = 1;
let sceneExposure = 1;
let live: LiveRender | null = null;
let pool: RenderPool | null = null;
let edits = 0;
const loader = new SceneLoader(async (hash) => {
  const r = await fetch(`/api/blobs/${hash}`);
  if (!r.ok) throw new Error(`content of the scene could not be loaded (${r.status})`);
  return new Uint8Array(await r.arrayBuffer());
});
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
  live.start({ scene, recipe, camera, frame });
}

/** The film a slot shows, with the layers its view needs. */
async function filmOf(slot: Slot): Promise<{ film: FilmLayers; place: Placement } | null> {
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
  const state = live?.status().state;
  if (state === 'paused') return 'the live picture waits while a trial is timed';
  if (state === 'halted') return 'the live picture is off; L starts it';
  return 'the first picture is on its way';
}

function paint(slot: Slot): void {
  const got = shown[slot];
  if (!got) return;
  const view = views[slot];
  const noiseScale = view.kind === 'noise' ? sceneExposure : exposure;
  const other = slot === 'A' ? 'B' : 'A';
  // Side by side both read on A's scale.
  const scale = slot === 'B' && JSON.stringify(views.A) === JSON.stringify(view) ? scaleOfA : null;
  const result =
    show(got.film, view, noiseScale, shown[other]?.film ?? null, scale) ??
    // A film that lacks what the view needs is shown as it is.
    (got.film.layers.has('beauty') ? show(got.film, { kind: 'color', layer: 'beauty' }, exposure, null) : null);
  if (!result) {
    post({ type: 'absent', slot, reason: 'this film does not hold that layer' });
    return;
  }
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

/** Values under a point given as fractions of the frame. */
function probe(slot: Slot, fx: number, fy: number): ProbeValue | null {
  const got = shown[slot];
  if (!got) return null;
  const { place, film } = got;
  const x = Math.floor(fx * place.width) - place.x;
  const y = Math.floor(fy * place.height) - place.y;
  if (x < 0 || y < 0 || x >= film.width || y >= film.height) return null;
  const view = views[slot];
  const i = y * film.width + x;
  let values: ProbeValue['values'] = [];
  if (view.kind === 'relit') {
    const one: FilmLayers = { width: 1, height: 1, layers: new Map() };
    for (const [name, layer] of film.layers)
      one.layers.set(name, { ...layer, planes: layer.planes.map((p) => p.subarray(i, i + 1)) });
    const rgb = relight(one, view.groups, view.balance, 'group.');
    values = rgb ? rgb.map((p, c) => ({ channel: 'RGB'[c], value: p[0] })) : [];
  } else {
    const layer =
      film.layers.get(view.kind === 'color' || view.kind === 'data' ? view.layer : 'beauty') ??
      film.layers.values().next().value;
    values = layer ? layer.channels.slice(0, 4).map((channel, c) => ({ channel, value: layer.planes[c][i] })) : [];
  }
  return { x: x + place.x, y: y + place.y, values };
}

async function measureRelit(m: Extract<ToFilm, { type: 'measure'; what: 'relit' }>): Promise<RelitMeasure> {
  const names = m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
  const film = await cache.film(m.trial, names);
  const started = performance.now();
  const a = relight(film, m.groups, m.balance, 'half_a.');
  const b = relight(film, m.groups, m.balance, 'half_b.');
  const noise = a && b ? noiseOf(a, b, film.width, film.height, m.exposure) : null;
  const ms = performance.now() - started;
  const byGroup: RelitMeasure['byGroup'] = {};
  for (const g of m.groups) {
    const own = {
      ...m.balance,
      ...Object.fromEntries(
        m.groups.map((o) => [
          o,
          {
            ...(m.balance[o] ?? { stops: 0, color: [1, 1, 1] }),
            on: o === g && (m.balance[o]?.on ?? true),
            solo: false,
          },
        ]),
      ),
    } as typeof m.balance;
    const p = relight(film, m.groups, own, 'half_a.');
    const q = relight(film, m.groups, own, 'half_b.');
    // Alone but weighed as it stands in the whole picture, so that groups compare.
    byGroup[g] =
      p && q && a && b ? noiseOf(shifted(p, a), shifted(q, a, p), film.width, film.height, m.exposure) : null;
  }
  return { noise, byGroup, ms };
}

/** A group's half laid over the rest of the relit picture, so that its noise is weighed at the picture's brightness. */
function shifted(part: Rgb, whole: Rgb, own: Rgb = part): Rgb {
  return part.map((p, c) => {
    const out = new Float32Array(p.length);
    for (let i = 0; i < p.length; i++) out[i] = whole[c][i] - own[c][i] + p[i];
    return out;
  }) as unknown as Rgb;
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
      if (views.A.kind === 'difference' && message.slot === 'B') await refresh('A');
      return;
    case 'view':
      views = { A: message.a, B: message.b };
      exposure = message.exposure;
      sceneExposure = message.sceneExposure;
      await Promise.all([refresh('A'), refresh('B')]);
      if (views.A.kind === 'difference') paint('A');
      return;
    case 'probe':
      post({
        type: 'probed',
        id: message.id,
        a: probe('A', message.x, message.y),
        b: probe('B', message.x, message.y),
      });
      return;
    case 'measure': {
      if (message.what === 'relit') post({ type: 'measured', id: message.id, result: await measureRelit(message) });
      else {
        const film = await cache.film(message.trial, [
          'beauty',
          ...message.layers.filter((n) => n.startsWith(`${message.parting}.`)),
        ]);
        const result = tally(film, message.parting);
        post({
          type: 'measured',
          id: message.id,
          result: result && {
            maxError: result.maxError,
            rmsError: result.rmsError,
            decibels: result.decibels,
            parts: result.parts.length,
          },
        });
      }
    }
  }
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
