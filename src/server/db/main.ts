import { canonicalJson, PRESETS } from '@/core/recipe';
import { formatOf, type SceneDocument } from '@/core/scene';
import { SHOT_PLATES, SHOTS } from '@/core/shots';
import { sha256 } from '@/node/hash';
import { buildMark } from '../jobs/mark';
import { putBlob } from '../storage/blobs';
import { database, type Sql } from './connection';
import { migrate } from './migrate';
import { putShot } from './shots';
import { noteHouse } from './workers';

/** The plate that a demo shot has, as its document names it; nothing where it has none. */
async function plateOf(sql: Sql, shot: string): Promise<Partial<Pick<SceneDocument, 'contents' | 'plates'>>> {
  if (!Object.hasOwn(SHOT_PLATES, shot)) return {};
  const { name, make } = SHOT_PLATES[shot];
  const { width, height, channels, values } = make();
  const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  const hash = await putBlob(sql, bytes);
  const content = { width, height, channels, format: formatOf(values), hash, bytes: bytes.byteLength };
  return {
    contents: [{ name: `${name} 1`, use: 'reference', ...content }],
    plates: [{ name, stills: [{ number: 1, picture: `${name} 1` }], offset: 0, gaps: 'hold' }],
  };
}

/** Entry of build/migrate.mjs: brings the database up to date and puts the demo shots in. */
async function main(): Promise<void> {
  const sql = database();
  const applied = await migrate(sql, new URL('../src/server/db/migrations/', import.meta.url));
  if (applied.length > 0) process.stdout.write(`database: ${applied.join(', ')}\n`);
  await noteHouse(sql, buildMark(new URL('..', import.meta.url)));
  let position = 0;
  for (const [name, make] of Object.entries(SHOTS)) {
    const { document, geometry } = make();
    const blob = await putBlob(sql, geometry);
    const stored = { ...document, ...(await plateOf(sql, name)), geometry: { ...document.geometry, hash: blob } };
    await putShot(
      sql,
      name,
      position++,
      { document: stored, geometry: blob, hash: sha256(canonicalJson(stored)) },
      PRESETS.Check,
    );
  }
  await sql.end();
}

main().catch((error) => {
  process.stderr.write(`database: ${(error as Error).message}\n`);
  process.exitCode = 1;
});
