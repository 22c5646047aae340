import { fromBytes, readHeaders, readPart } from '@/core/exr';
import type { Film } from '@/core/film';
import type { Recipe } from '@/core/recipe';
import { nodeInflate } from '@/node/zlib';
import { RenderPool } from '@/render/pool/pool';
import { spawnInline } from '@/render/pool/spawn-inline';
import { testKernel } from '@/render/testing';
import type { Sql } from '../db/connection';
import { layersOf, trialById } from '../db/trials';
import { getBlob } from '../storage/blobs';
import { smallScene } from '../testing';
import { Studio } from './studio';
import { TrialRunner } from './trial';

/** A worker's threads in this process. */
export const testStudio = (sql: Sql) =>
  new Studio(sql, { module: testKernel(), spawn: spawnInline, threads: 2, version: 'test' });

export const testRunner = (sql: Sql) => new TrialRunner(sql, testStudio(sql), async () => {});

/** The film of the small scene, rendered in one go without a server. */
export async function straight(recipe: Recipe): Promise<Film> {
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  const scene = smallScene();
  await pool.load(scene);
  return (await pool.render(scene, recipe, scene.document.cameras[0])).film;
}

/** Red, green and blue of a layer of a trial's stored film. */
export async function storedLayer(sql: Sql, id: string, name: string): Promise<Float32Array[]> {
  const trial = (await trialById(sql, id))!;
  const bytes = (await getBlob(sql, trial.film!))!;
  const file = await readHeaders(fromBytes(bytes));
  const row = (await layersOf(sql, id)).find((l) => l.name === name)!;
  const planes = await readPart(fromBytes(bytes), file, row.part, nodeInflate);
  const order = file.parts[row.part].channels.map((c) => c.name.split('.').at(-1));
  return ['R', 'G', 'B'].map((c) => planes[order.indexOf(c)] as Float32Array);
}
