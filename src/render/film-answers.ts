import { depthCurve, LEDGER_LAYERS } from '@/core/film';
import { scaleOf } from '@/core/image';
import { type Camera, type SceneDocument, writeGlb } from '@/core/scene';
import { pictureErrors } from '@/core/stats';
import { brightest } from './brightest';
import { tryCures } from './cures/try-cures';
import { adviseDepth } from './depth-advice';
import { diagnose } from './diagnosis/diagnose';
import { lightEffects } from './diagnosis/light-effects';
import { desk, filmOf, liveParts, post, postReel, spawn } from './film-desk';
import { measureRelit, measureTally } from './film-measures';
import type { AgainstB, Area, Seen, Slot, SmallPicture, SpaceGeometry, ToFilm, WithinBoth } from './film-protocol';
import { headroom } from './headroom';
import { histogram } from './histogram';
import { hours } from './hours';
import type { Inspector } from './inspector';
import { axialDepth, cameraOf, groupsOf, probe, seeAt } from './looking';
import { overlap, type Shown, within } from './overlap';
import { RenderPool } from './pool';
import { gatherFrames } from './reel';
import { linearPixels } from './reference-picture';
import { measureSequence } from './sequence';
import { spaceGeometry } from './space-geometry';
import { stillsOf } from './stills';
import { Swatches } from './swatches';
import { relativeTimes, Tuning } from './tuning';

export const cancels = new Map<number, AbortController>();

/** Answers a question about a film or the live scene. */
export async function measure(m: Extract<ToFilm, { type: 'measure' }>): Promise<unknown> {
  if (m.what === 'relit') return measureRelit(desk.cache, m);
  if (m.what === 'tally') return measureTally(desk.cache, m);
  if (m.what === 'depth') return depthOfA();
  if (m.what === 'errors') return errorsOfA();
  if (m.what === 'within') return withinBoth(m.area);
  if (m.what === 'headroom') {
    const halves = m.groups.flatMap((g) => [`half_a.${g}`, `half_b.${g}`]);
    const film = await desk.cache.film(m.trial, halves);
    return headroom(film, m.groups, m.target, desk.sceneExposure, () => new Promise((done) => setTimeout(done, 0)));
  }
  if (m.what === 'stills') {
    const beauty = async (t: (typeof m.trials)[number]) => ({
      film: await desk.cache.film(t.id, ['beauty']),
      place: t.frame,
    });
    return stillsOf(await Promise.all(m.trials.map(beauty)), m.area, desk.sceneExposure);
  }
  if (m.what === 'histogram') return desk.shown.A ? histogram(desk.shown.A.film, m.exposure) : null;
  if (!desk.live) throw new Error('the scene is still being opened');
  const cancel = new AbortController();
  cancels.set(m.id, cancel);
  const sceneOf = (document: SceneDocument) => desk.loader.checked(document);
  const { signal } = cancel;
  switch (m.what) {
    case 'see':
      return seeAt(inspectorNow(), m.patient, m.x, m.y, {
        rgb: probe(desk.shown.A, desk.views.A, m.x, m.y)?.values,
        groups: groupsAt(m.x, m.y),
      });
    case 'trails':
      return inspectorNow().trails(m.patient.recipe, cameraOf(m.patient), m.patient.frame, m.x, m.y, m.samples);
    case 'diagnosis':
      return desk.live.borrow((pool) => diagnose(pool, sceneOf, m.patient, stepped(m.id, signal)));
    case 'effects':
      return desk.live.borrow((pool) => lightEffects(pool, sceneOf, m.patient, signal));
    case 'glb': {
      const bytes = writeGlb(m.document, await desk.loader.twin().checked(m.document));
      return bytes.buffer;
    }
    case 'geometry':
      return geometryOf(m.document);
    case 'swatch':
      return swatch(m.document, m.size);
    case 'tune': {
      if (m.ifKnown && !tuning.has(m.patient, m.moods)) return null;
      return desk.live.borrow((pool) =>
        tuning.ask(pool, sceneOf, m.patient, m.goal, m.threads, { ...stepped(m.id, signal), moods: m.moods }),
      );
    }
    case 'cures':
      return desk.live.borrow((pool) => tryCures(pool, sceneOf, m.patient, m.threads, stepped(m.id, signal)));
    case 'sequence':
      return desk.live.borrow((pool) => measureSequence(pool, sceneOf, m.patient, m.threads, stepped(m.id, signal)));
    case 'saving':
      return desk.live.borrow(async (pool) => {
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
      return desk.live.borrow((pool) => adviseDepth(pool, sceneOf, m.patient, m.axis, stepped(m.id, signal)));
    case 'brightest':
      return brightest(await sceneOf(m.patient.document), cameraOf(m.patient), m.patient);
    case 'gather':
      return desk.live.borrow((pool) =>
        gatherFrames(
          pool,
          sceneOf,
          m.patient,
          m.frames,
          desk.live!.lastSpeed(),
          (frame, picture) => {
            desk.reel.keep(frame, picture);
            postReel();
          },
          { signal, onStep: (done, of) => post({ type: 'step', id: m.id, done, of, words: 'frames' }) },
        ),
      );
    case 'hours':
      return desk.live.borrow((pool) => hours(pool, sceneOf, m.patient, m.suns, m.width, signal));
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
  const [reference, test] = [both.b, both.a].map((s) => linearPixels(s, scaleOf(desk.sceneExposure)));
  return { errors: pictureErrors(reference, test, width, height, desk.sceneExposure).errors };
}

const FIGURED = ['half_a', 'half_b', 'cost'];

/** Noise and share of the time of a part of A and B. */
async function withinBoth(area: Area): Promise<WithinBoth> {
  const of = async (slot: Slot) => {
    const source = desk.sources[slot];
    if (source?.kind === 'trial')
      return within({ film: await desk.cache.film(source.id, FIGURED), place: source.frame }, area, desk.sceneExposure);
    const place = desk.live?.place();
    const film = source?.kind === 'live' ? desk.live?.layers(FIGURED) : null;
    return film && place ? within({ film, place }, area, desk.sceneExposure) : null;
  };
  const [a, b] = await Promise.all([of('A'), of('B')]);
  return { a, b };
}

/** The beauty of a slot, whatever view it shows. */
async function plainFilm(slot: Slot): Promise<Shown | null> {
  const source = desk.sources[slot];
  if (source?.kind === 'trial') return { film: await desk.cache.film(source.id, ['beauty']), place: source.frame };
  return source ? filmOf(slot) : null;
}

/** The depth curve of what A shows. */
async function depthOfA() {
  const source = desk.sources.A;
  if (source?.kind === 'live') {
    const film = desk.live?.layers(LEDGER_LAYERS);
    return film ? depthCurve(film, desk.sceneExposure) : null;
  }
  if (source?.kind !== 'trial' || !source.layers.includes(LEDGER_LAYERS[0])) return null;
  const names = source.layers.includes('lost') ? [...LEDGER_LAYERS, 'lost'] : LEDGER_LAYERS;
  return depthCurve(await desk.cache.film(source.id, names), desk.sceneExposure);
}

/** Looks into the live scene while it is being traced. */
function inspectorNow(): Inspector {
  const inspector = desk.pool?.inspector();
  if (!inspector) throw new Error('the scene is still being opened');
  return inspector;
}

export function depthAt(look: { camera: Camera; frame: number; aspect: number }, x: number, y: number): number | null {
  const sight = desk.pool?.inspector()?.see(look.camera, look.frame, look.aspect, x, y);
  if (!sight || !Number.isFinite(sight.metres)) return null;
  return axialDepth(look.camera, look.frame, sight.position);
}

/** What each light group brings to a point of the live picture. */
function groupsAt(x: number, y: number): Seen['groups'] {
  const film = desk.sources.A?.kind === 'live' ? desk.live?.layers(liveParts('group')) : null;
  const place = desk.live?.place();
  return film && place ? groupsOf({ film, place }, desk.liveGroups, x, y) : [];
}

/** Triangles of the live scene for the working view of the space. */
async function geometryOf(document: SceneDocument): Promise<SpaceGeometry> {
  const scene = await desk.loader.checked(document);
  return spaceGeometry(scene);
}

/** The worker's own pool of one thread for swatches, so that they never disturb the picture. */
let swatches: Swatches | null = null;
async function swatch(document: SceneDocument, size: number): Promise<SmallPicture> {
  if (!desk.pool) throw new Error('the scene is still being opened');
  const own = desk.loader.twin();
  swatches ??= new Swatches(new RenderPool(desk.pool.module, spawn, 1), (d) => own.checked(d));
  return swatches.draw(document, size);
}
