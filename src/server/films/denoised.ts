import { blendLayer, isFiltered, isNeeded, MOST_DENOISED_BYTES, neededToBlend, type Strengths } from '@/core/denoise';
import { type FilmLayers, type FilmSpec, LAYER, noiseOfLayers } from '@/core/film';
import type { Display } from '@/core/image';
import type { Noise } from '@/core/stats';
import { streamLayers } from '@/render/node/film-exr';
import type { Sql } from '../db/connection';
import { type TrialAbout, trialsAbout } from '../db/denoised';
import { layersOf } from '../db/trials';
import { putStream } from '../storage/blobs';
import { type LayerPlace, readLayers } from './open';

/** Why a film cannot be denoised for its size; null where it can. */
export function tooLarge(layers: readonly { name: string; bytes: number }[]): string | null {
  const bytes = layers.filter((l) => isNeeded(l.name)).reduce((sum, l) => sum + l.bytes, 0);
  if (bytes <= MOST_DENOISED_BYTES) return null;
  const gigabytes = (n: number) => (n / 1e9).toFixed(1);
  return `its parts take ${gigabytes(bytes)} GB, and at most ${gigabytes(MOST_DENOISED_BYTES)} GB are denoised: render fewer parts, or a region`;
}

/** A stored film with what denoising needs of it, of the layers that it is known to have; null when it is not there. */
export function filmToDenoise(sql: Sql, hash: string, places: readonly LayerPlace[]): Promise<FilmLayers | null> {
  const names = new Set(places.map((p) => p.name));
  return readLayers(sql, hash, (n) => names.has(n) && isNeeded(n));
}

/** Trials that a trial's film can be joined with; none where it keeps no motion. */
export async function trialsToJoin(sql: Sql, trial: string, places: readonly LayerPlace[]): Promise<TrialAbout[]> {
  const names = places.map((p) => p.name);
  if (!names.includes('motion')) return [];
  return trialsAbout(
    sql,
    trial,
    names.filter((n) => n === 'motion' || isFiltered(n)),
  );
}

/** Films of the frames before and after a trial's, as far as there are any. Throws in words where all together are too large. */
export async function framesToJoin(
  sql: Sql,
  trial: string,
): Promise<{ about: { number: number; frame: number }[]; neighbours: { film: FilmLayers; isAfter: boolean }[] }> {
  const about: { number: number; frame: number }[] = [];
  const neighbours: { film: FilmLayers; isAfter: boolean }[] = [];
  const own = await layersOf(sql, trial);
  const held = [...own];
  for (const { id, film: hash, isAfter, number, frame } of await trialsToJoin(sql, trial, own)) {
    const places = await layersOf(sql, id);
    held.push(...places);
    const fault = tooLarge(held);
    if (fault) throw new Error(`with the frames about it, ${fault}`);
    const film = await filmToDenoise(sql, hash, places);
    if (!film) continue;
    about.push({ number, frame });
    neighbours.push({ film, isAfter });
  }
  return { about, neighbours };
}

/** Keeps layers that denoising made of a film, at full strength, as OpenEXR beside it: 32-bit floats, part by part. */
export async function storeDenoised(
  sql: Sql,
  { film, names }: { film: FilmLayers; names: string[] },
  { spec, version }: { spec: FilmSpec; version: string },
): Promise<{ result: string; layers: { name: string; part: number }[] }> {
  const attributes = { 'lantern:denoised': { type: 'string' as const, value: `100 % by lantern ${version}` } };
  const { bytes, layers } = await streamLayers(names, (name) => film.layers.get(name)!, spec, attributes);
  const { hash } = await putStream(sql, bytes);
  return { result: hash, layers: layers.map(({ name, part }) => ({ name, part })) };
}

/** Noise that is left of the beauty at some strengths; null when one of both films is not there. */
export async function residualAt(
  sql: Sql,
  plain: string,
  made: { hash: string; places: readonly LayerPlace[] },
  strengths: Strengths,
  display: Display,
): Promise<Noise | null> {
  const kept = made.places.map((p) => p.name);
  const halves = [LAYER.half('a'), LAYER.half('b')];
  const needed = new Set(halves.flatMap((n) => neededToBlend(n, kept, strengths)));
  const read = (from: string) => readLayers(sql, from, (n) => needed.has(n));
  const [a, b] = [await read(plain), await read(made.hash)];
  if (!a || !b) return null;
  const layers = new Map(halves.map((n) => [n, blendLayer(n, kept, a, b, strengths)]));
  return noiseOfLayers({ ...a, layers }, display);
}
