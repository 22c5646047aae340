import type { Display } from '@/core/image';
import { PATH_CLASSES } from '@/core/kernel';
import { FilmCache, fetchPreview } from './film-cache';
import type { FromFilm, Slot, Source } from './film-protocol';
import type { LiveRender } from './live';
import type { Shown } from './overlap';
import type { RenderPool } from './pool';
import type { Tracer } from './protocol';
import { Reel } from './reel';
import { referencePicture } from './reference-picture';
import { SceneLoader } from './scenes';
import { layersFor, type View } from './view';

/** What the film worker has before it: the films and pictures of A and B, the live render, the scene's content. */
interface FilmDesk {
  readonly cache: FilmCache;
  readonly loader: SceneLoader;
  readonly reel: Reel;
  readonly sources: Record<Slot, Source | null>;
  readonly shown: Record<Slot, Shown | null>;
  views: Record<Slot, View>;
  exposure: Display;
  sceneExposure: Display;
  live: LiveRender | null;
  pool: RenderPool | null;
  liveGroups: string[];
}

export const post = (message: FromFilm, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(message, transfer);

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

export const desk: FilmDesk = {
  cache: new FilmCache(),
  loader: new SceneLoader((hash) => fetchContent(hash)),
  reel: new Reel(),
  sources: { A: { kind: 'live' }, B: null },
  shown: { A: null, B: null },
  views: { A: { kind: 'color', layer: 'beauty' }, B: { kind: 'color', layer: 'beauty' } },
  exposure: 1,
  sceneExposure: 1,
  live: null,
  pool: null,
  liveGroups: [],
};

export function spawn(): Tracer {
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

export const postReel = () => post({ type: 'reel', kept: desk.reel.kept() });

/** The film a slot shows, with the layers its view needs. */
export async function filmOf(slot: Slot): Promise<Shown | null> {
  const source = desk.sources[slot];
  const view = desk.views[slot];
  if (!source) return null;
  if (source.kind === 'live') {
    const names = desk.live ? layersFor(view, view.kind === 'tally' ? liveParts(view.parting) : []) : [];
    const film = desk.live?.layers(names) ?? null;
    const place = desk.live?.place();
    return film && place ? { film, place } : null;
  }
  if (source.kind === 'preview') {
    const film = await fetchPreview(source.id);
    return film ? { film, place: source.frame } : null;
  }
  if (source.kind === 'reference') return referencePicture(source.content, fetchContent);
  return { film: await desk.cache.film(source.id, layersFor(view, source.layers)), place: source.frame };
}

export function liveParts(parting: string): string[] {
  return parting === 'group' ? desk.liveGroups.map((g) => `group.${g}`) : PATH_CLASSES.map((c) => `class.${c}`);
}
