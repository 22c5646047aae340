import { createServer, connect as dial, type Socket } from 'node:net';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { sphere } from '@/core/scene';
import { testScene } from '@/render/testing';
import { connect, type Sql } from './db/connection';
import { migrate } from './db/migrate';
import { latestRevision, putShot } from './db/shots';
import { putBlob } from './storage/blobs';

/** A database of its own for a test file, made afresh; `npm test` starts the server. */
export async function testDatabase(name: string): Promise<{ sql: Sql; url: string; close: () => Promise<void> }> {
  const base = process.env.DATABASE_URL;
  if (!base) throw new Error('DATABASE_URL is not set: run npm test, which starts a database');
  const admin = connect(base, { max: 1 });
  await admin.unsafe(`drop database if exists ${name} with (force)`);
  await admin.unsafe(`create database ${name}`);
  await admin.end();
  const url = base.replace(/\/[^/]*$/, `/${name}`);
  const sql = connect(url, { max: 6 });
  await migrate(sql, pathToFileURL(`${join(__dirname, 'db/migrations')}/`));
  return { sql, url, close: () => sql.end({ timeout: 2 }) };
}

export const smallScene = (): Scene =>
  testScene({
    meshes: { ball: sphere(1, 24) },
    materials: { ball: { base_color: [0.6, 0.5, 0.4], specular_roughness: 0.3 } },
    lights: [{ kind: 'sphere', name: 'bulb', group: 'bulb', power: 30, position: [2, 3, 2], radius: 0.3 }],
    environment: [0.2, 0.3, 0.5],
  });

export const smallRecipe = (samples: number, size = 48): Recipe =>
  parseRecipe({ size: { width: size, height: size, scale: 100 }, sampling: { cameraMin: 2, cameraMax: samples } });

/** Puts a small shot in and returns its ids. */
export async function seedShot(sql: Sql, scene = smallScene()): Promise<{ shot: string; revision: string }> {
  const geometry = await putBlob(sql, scene.geometry);
  const shot = await putShot(sql, 'test-shot', 0, { document: scene.document, geometry, hash: 'x' }, smallRecipe(4));
  return { shot, revision: (await latestRevision(sql, shot))!.id };
}

/** A way to the database that can be cut and mended: what a restart or a lost network looks like from the client's side. */
export async function cuttableLine(
  url: string,
): Promise<{ url: string; cut: () => void; mend: () => void; close: () => void }> {
  const { hostname, port } = new URL(url);
  const open = new Set<Socket>();
  let whole = true;
  const server = createServer((near) => {
    if (!whole) return void near.destroy();
    const far = dial(Number(port), hostname);
    for (const [from, to] of [
      [near, far],
      [far, near],
    ]) {
      open.add(from);
      from.on('error', () => {});
      from.on('close', () => {
        open.delete(from);
        to.destroy();
      });
      from.pipe(to);
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const line = new URL(url);
  line.port = String((server.address() as { port: number }).port);
  const cut = () => {
    whole = false;
    for (const socket of open) socket.destroy();
  };
  const close = () => {
    cut();
    server.close();
  };
  return {
    url: line.href,
    cut,
    mend: () => {
      whole = true;
    },
    close,
  };
}
