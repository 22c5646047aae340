import { randomBytes } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { filmBytes, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { canonicalJson, FEATURE_NAMES, parseRecipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { sha256 } from '@/node/hash';
import { frameOfFilm } from '@/render/node/rendered-frame';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import type { Sql } from '@/server/db/connection';
import { cutFilm } from '@/server/films/cut';
import { measured, storeFilm } from '@/server/films/store';
import { getBlob, putBlob } from '@/server/storage/blobs';

/** Megabytes a second into and out of PostgreSQL. */
export async function measureStorage(sql: Sql) {
  const bytes = new Uint8Array(randomBytes(64 << 20));
  const before = performance.now();
  const hash = await putBlob(sql, bytes);
  const written = performance.now();
  await getBlob(sql, hash);
  const read = performance.now();
  await sql`delete from blob where hash = ${hash}`;
  const mb = bytes.length / 1e6;
  return { megabytes: mb, writeMBs: (mb / (written - before)) * 1000, readMBs: (mb / (read - written)) * 1000 };
}

const status = (field: string) =>
  Number(new RegExp(`^${field}:\\s*(\\d+) kB`, 'm').exec(readFileSync('/proc/self/status', 'utf8'))![1]) * 1024;

/** Most memory of the process during `work`, beyond what it had before, in bytes. */
async function grown(work: () => Promise<unknown>): Promise<number> {
  globalThis.gc?.();
  const before = status('VmRSS');
  // Starts the kernel's record of the most anew (proc(5)).
  writeFileSync('/proc/self/clear_refs', '5');
  await work();
  return Math.max(0, status('VmHWM') - before);
}

/** Memory that storing a film with everything in it takes, and cutting all of it for a download: films, the one that is there counted. */
export async function measureFilmMemory(sql: Sql, module: WebAssembly.Module, thread: URL, scene: Scene) {
  const recipe = parseRecipe({
    size: { width: 960, height: 540, scale: 100 },
    sampling: { cameraMin: 2, cameraMax: 2 },
    film: { ledger: 'all', features: [...FEATURE_NAMES] },
  });
  const camera = scene.document.cameras[0];
  const pool = new RenderPool(module, spawnNode(thread), 2);
  await pool.load(scene);
  const { film } = await pool.render(scene, recipe, camera);
  pool.close();
  const bytes = filmBytes(film.spec);
  const recipeHash = sha256(canonicalJson(recipe));
  const origin = { scene, camera, frame: 1, recipe, recipeHash, traceSeconds: 1, version: 'bench' };
  let stored!: Awaited<ReturnType<typeof storeFilm>>;
  const store = await grown(async () => {
    const figures = measureFilm(film, displayOf(camera.exposure, scene.document.look));
    stored = await storeFilm(sql, frameOfFilm(film), measured(frameOfFilm(film), figures, origin).origin);
  });
  let cutBytes = 0;
  const cut = await grown(async () => {
    const how = {
      layers: stored.layers.map((l) => l.name),
      depth: 'auto',
      compression: 'zip',
      parting: 'many',
    } as const;
    for await (const chunk of (await cutFilm(sql, stored.hash, how))!.bytes) cutBytes += chunk.byteLength;
  });
  await sql`delete from blob where hash = ${stored.hash}`;
  return { filmMB: bytes / 1e6, cutMB: cutBytes / 1e6, store: 1 + store / bytes, cut: cut / bytes };
}
