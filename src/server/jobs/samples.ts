import { AS_RENDERED, type Mix, type Moods, parseMoods } from '@/core/moods';
import { canonicalJson, PRESETS, parseRecipe, type Recipe } from '@/core/recipe';
import { lightGroups, type SceneDocument, withField } from '@/core/scene';
import { SHOTS } from '@/core/shots';
import { sha256 } from '@/node/hash';
import { announce, type Sql } from '../db/connection';
import { newId } from '../db/ids';
import { claimSamples, firstMoods, freezeVariant, latestRevision, listShots } from '../db/shots';
import type { Inside } from '../db/transaction';
import { addTrial, type NewTrialRow } from '../db/trials';

/** Lenses of the ladder, as multiples of the camera's own. */
const LENSES = [0.7, 1, 1.4];

/** A small quick version of a recipe that ships. */
function small(name: string, from: Recipe, samples: number, film: object = {}): Recipe {
  return parseRecipe({
    ...from,
    name,
    size: { ...from.size, scale: 25 },
    sampling: { ...from.sampling, cameraMin: Math.min(4, samples), cameraMax: samples, stopNoise: 0 },
    film: { ...from.film, ...film },
  });
}

const QUICK = small('Sketch, small', PRESETS.Sketch, 8);
const CHECK = small('Check, small', PRESETS.Check, 16);
const LEDGER = small('Check, small, by bounce', PRESETS.Check, 8, { ledger: 'all', lostLight: true });
const LENS = small('Sketch, small', PRESETS.Sketch, 4);

/** Two looks of a scene's light groups: its first alone, and the others a stop darker. */
function moodsOf(document: SceneDocument): Moods {
  const [first, ...rest] = lightGroups(document);
  if (!first || rest.length === 0) return parseMoods({});
  const others = (change: object): Mix => Object.fromEntries(rest.map((g) => [g, { ...AS_RENDERED, ...change }]));
  return parseMoods({
    list: [
      { id: 'alone', name: `${first} alone`, mix: others({ on: false }) },
      { id: 'darker', name: `all but ${first} a stop darker`, mix: others({ stops: -1 }) },
    ],
  });
}

async function samplesOf(sql: Sql, shot: string, add: Inside): Promise<string[]> {
  const revision = await latestRevision(sql, shot);
  if (!revision) return [];
  const { document } = revision;
  const [camera] = document.cameras;
  const { first, last } = document.frames;
  const base = { shot, camera: camera.name, frame: first === last ? null : first, parent: null, sample: true };
  const log = async (title: string, recipe: Recipe, more: Partial<NewTrialRow> = {}) => {
    const row = { ...base, revision: revision.id, recipe, recipeHash: sha256(canonicalJson(recipe)), title, ...more };
    return (await addTrial(sql, row, add)).id;
  };
  const logged = [await log('a quick look', QUICK), await log('a working check', CHECK)];
  const ladder = newId();
  for (const k of LENSES) {
    const value = Math.round(camera.focalLengthMm * k);
    const other = withField(document, { kind: 'camera', name: camera.name }, 'focalLengthMm', value);
    const variant = await freezeVariant(sql, revision, other, sha256(canonicalJson(other)));
    const at = [{ label: 'lens, mm', value }];
    logged.push(await log(`lens ${value} mm`, LENS, { revision: variant.id, ladder: { id: ladder, at } }));
  }
  logged.push(await log('how deep light goes', LEDGER));
  await firstMoods(sql, shot, moodsOf(document));
  return logged;
}

/**
 * Logs a few small trials of each shot that ships and has had none, so that a first start has something to show: once, and
 * after all that anybody asks for.
 */
export async function logSamples(sql: Sql, add: Inside): Promise<void> {
  for (const { id: shot, name } of await listShots(sql)) {
    if (!Object.hasOwn(SHOTS, name)) continue;
    if (!(await claimSamples(sql, shot))) continue;
    for (const id of await samplesOf(sql, shot, add)) await announce(sql, { type: 'trial', id, shot, state: 'queued' });
  }
}
