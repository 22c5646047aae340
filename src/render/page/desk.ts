import { LAYER } from '@/core/film';
import type { Display } from '@/core/image';
import { PATH_CLASSES } from '@/core/kernel';
import type { Scene, SceneDocument } from '@/core/scene';
import type { Inspector } from '../pool/inspector';
import type { RenderPool } from '../pool/pool';
import type { Tracer } from '../pool/protocol';
import { SceneLoader } from '../pool/scenes';
import { Besides } from '../views/besides';
import type { Shown } from '../views/overlap';
import { layersFor, type View } from '../views/show';
import { inflateInPage } from '../zlib/in-page';
import { FilmCache, fetchPreview } from './film-cache';
import type { LiveRender } from './live';
import { PartReel, Reel } from './reel';
import { referencePicture } from './reference-picture';
import { spawn } from './spawn';
import type { FromFilm, Slot, Source } from './told';

/** What the film worker has before it: the films and pictures of A and B, the live render, the scene's content. */
export interface FilmDesk {
  readonly cache: FilmCache;
  readonly loader: SceneLoader;
  readonly reel: Reel;
  readonly parts: PartReel;
  readonly besides: Besides;
  readonly sources: Record<Slot, Source | null>;
  readonly shown: Record<Slot, Shown | null>;
  views: Record<Slot, View>;
  /** As the view is looked at, and as the scene's camera exposes. */
  exposure: Display;
  sceneExposure: Display;
  live: LiveRender | null;
  pool: RenderPool | null;
  liveGroups: string[];
  readonly spawn: () => Tracer;
  /** The scene of a document; throws where its content is missing. */
  sceneOf(document: SceneDocument): Promise<Scene>;
  /** The film a slot shows, with the layers its view needs. */
  filmOf(slot: Slot): Promise<Shown | null>;
  /** Tells the page which frames have a picture. */
  reelChanged(): void;
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

const cache = new FilmCache();

export const desk: FilmDesk = {
  cache,
  loader: new SceneLoader((hash) => fetchContent(hash)),
  reel: new Reel(),
  parts: new PartReel(),
  besides: new Besides(cache, (hash) => fetchContent(hash), inflateInPage),
  sources: { A: { kind: 'live' }, B: null },
  shown: { A: null, B: null },
  views: { A: { kind: 'color', layer: 'beauty' }, B: { kind: 'color', layer: 'beauty' } },
  exposure: 1,
  sceneExposure: 1,
  live: null,
  pool: null,
  liveGroups: [],
  spawn,
  sceneOf: (document) => desk.loader.checked(document),
  filmOf: async (slot) => {
    const view = desk.views[slot];
    const [got, beside] = await Promise.all([filmOf(slot), view.kind === 'stack' ? desk.besides.of(view) : undefined]);
    return got && beside ? { ...got, beside } : got;
  },
  reelChanged: () => post({ type: 'reel', kept: desk.reel.kept(), parted: desk.parts.kept() }),
};

async function filmOf(slot: Slot): Promise<Shown | null> {
  const source = desk.sources[slot];
  const view = desk.views[slot];
  if (!source) return null;
  if (source.kind === 'live') {
    const parts = [...desk.liveGroups.map(LAYER.group), ...PATH_CLASSES.map(LAYER.class)];
    const film = desk.live?.lookedAt(layersFor(view, parts)) ?? null;
    const place = desk.live?.place();
    return film && place ? { film, place } : null;
  }
  if (source.kind === 'preview') {
    const film = await fetchPreview(source.id);
    if (film) return { film, place: source.frame };
    if (!source.before) return null;
    return { film: await desk.cache.film(source.before, layersFor(view, source.before.layers)), place: source.frame };
  }
  if (source.kind === 'reference') return referencePicture(source.content, fetchContent);
  return { film: await desk.cache.film(source, layersFor(view, source.layers)), place: source.frame };
}

const OPENING = 'the scene is still being opened';

/** The live picture; throws in words before there is one. */
export function liveOf(desk: FilmDesk): LiveRender {
  if (!desk.live) throw new Error(OPENING);
  return desk.live;
}

/** Looks into the live scene while it is being traced. */
export function inspectorOf(desk: FilmDesk): Inspector {
  const inspector = desk.pool?.inspector();
  if (!inspector) throw new Error(OPENING);
  return inspector;
}
