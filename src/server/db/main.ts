import { canonicalJson, PRESETS } from '@/core/recipe';
import { SHOTS } from '@/core/shots';
import { sha256 } from '@/node/hash';
import { putBlob } from '../storage/blobs';
import { database } from './connection';
import { migrate } from './migrate';
import { putShot } from './shots';

/** Entry of build/migrate.mjs: brings the database up to date and puts the demo shots in. */
async function main(): Promise<void> {
  const sql = database();
  const applied = await migrate(sql, new URL('../src/server/db/migrations/', import.meta.url));
  if (applied.length > 0) process.stdout.write(`database: ${applied.join(', ')}\n`);
  let position = 0;
  for (const [name, make] of Object.entries(SHOTS)) {
    const { document, geometry } = make();
    const blob = await putBlob(sql, geometry);
    const stored = { ...document, geometry: { ...document.geometry, hash: blob } };
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
