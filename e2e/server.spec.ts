import { type ChildProcess, spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { request as http } from 'node:http';
import { type APIRequestContext, expect, test } from '@playwright/test';

/** The server by itself: wrong requests change nothing, and uploads are kept whole or not at all. */
const NOWHERE = '00000000-0000-7000-8000-000000000000';

interface Shot {
  shot: { id: string; baseline: string | null };
  revision: { id: string; document: { cameras: { name: string }[] } };
  draft: { version: number; moods: { list: { name: string }[] } };
}
async function shot(request: APIRequestContext): Promise<Shot> {
  const { shots } = await (await request.get('/api/shots')).json();
  return (await request.get(`/api/shots/${shots[0].id}`)).json();
}

const logbook = async (request: APIRequestContext, id: string) => (await request.get(`/api/shots/${id}/trials`)).json();

test('wrong requests are answered with what, where and the allowed range, and change nothing', async ({ request }) => {
  const before = await shot(request);
  const trials = await logbook(request, before.shot.id);
  const trial = {
    shot: before.shot.id,
    revision: before.revision.id,
    camera: before.revision.document.cameras[0].name,
    recipe: {},
  };
  const cases: [method: string, path: string, body: unknown, status: number, at: string][] = [
    ['POST', '/api/trials', { ...trial, shot: NOWHERE }, 404, 'id'],
    ['POST', '/api/trials', { ...trial, revision: 'first' }, 400, 'revision'],
    ['POST', '/api/trials', { ...trial, revision: NOWHERE }, 400, 'revision'],
    ['POST', '/api/trials', { ...trial, parent: 'first' }, 400, 'parent'],
    ['POST', '/api/trials', { ...trial, camera: 'attic' }, 400, 'camera'],
    [
      'POST',
      '/api/trials',
      { ...trial, recipe: { sampling: { cameraMin: 9, cameraMax: 4 } } },
      400,
      'sampling.cameraMax',
    ],
    ['POST', '/api/trials', { ...trial, recipe: { rayDepth: { all: 65 } } }, 400, 'rayDepth.all'],
    ['POST', '/api/trials', { ...trial, recipe: { region: { x: 0.9, y: 0, w: 0.2, h: 1 } } }, 400, 'region'],
    [
      'POST',
      '/api/trials',
      { ...trial, recipe: { size: { width: 16384, height: 16384, scale: 100 } } },
      400,
      'recipe.size',
    ],
    ['POST', '/api/trials', { ...trial, urgent: true }, 400, ''],
    ['POST', `/api/trials/${NOWHERE}/stop`, {}, 404, 'id'],
    ['PATCH', `/api/trials/${NOWHERE}`, { starred: true }, 404, 'id'],
    ['PATCH', `/api/trials/${NOWHERE}`, { starred: 'yes' }, 400, 'starred'],
    ['PATCH', `/api/shots/${before.shot.id}/draft`, { recipe: {} }, 400, 'if-match'],
    ['PUT', `/api/shots/${before.shot.id}/baseline`, { trial: NOWHERE }, 404, 'id'],
    ['PATCH', `/api/shots/${before.shot.id}/draft`, { moods: {} }, 400, 'if-match'],
    ['GET', `/api/trials/${NOWHERE}/layers/beauty`, undefined, 404, 'id'],
    ['GET', `/api/trials/${NOWHERE}/film.exr`, undefined, 404, 'id'],
    ['GET', `/api/shots/${before.shot.id}/trials?before=soon`, undefined, 400, 'before'],
    ['GET', '/api/blobs/abc', undefined, 404, 'hash'],
    ['GET', '/api/shots/lighthouse', undefined, 404, 'id'],
  ];
  for (const [method, path, data, status, at] of cases) {
    const answer = await request.fetch(path, { method, data });
    const what = `${method} ${path} ${JSON.stringify(data)}`;
    expect(answer.status(), what).toBe(status);
    const { error } = await answer.json();
    expect(error.message, what).toEqual(expect.any(String));
    expect(error.path, what).toBe(at);
  }
  const after = await shot(request);
  expect(after.draft.version).toBe(before.draft.version);
  expect(await logbook(request, before.shot.id)).toEqual(trials);
});

test('a body that is not JSON, or too long, is refused', async ({ request }) => {
  const path = '/api/trials';
  expect((await request.post(path, { data: 'shot=1', headers: { 'content-type': 'text/plain' } })).status()).toBe(415);
  const broken = await request.post(path, {
    data: Buffer.from('{"shot":'),
    headers: { 'content-type': 'application/json' },
  });
  expect(broken.status()).toBe(400);
  const long = await request.post(path, { data: { shot: 'x'.repeat(1 << 20) } });
  expect(long.status()).toBe(413);
});

test('events tell of a change as it happens', async ({ request, baseURL }) => {
  const { shot: s } = await shot(request);
  const abort = new AbortController();
  const stream = await fetch(`${baseURL}/api/events`, { signal: abort.signal });
  const reader = stream.body!.getReader();
  let text = '';
  const until = async (words: string) => {
    while (!text.includes(words)) text += new TextDecoder().decode((await reader.read()).value);
  };
  await until('event: ready');
  const { version } = (await shot(request)).draft;
  const draft = (await (await request.get(`/api/shots/${s.id}`)).json()).draft.recipe;
  await request.patch(`/api/shots/${s.id}/draft`, {
    data: { recipe: draft },
    headers: { 'if-match': String(version) },
  });
  await until('"type":"draft"');
  abort.abort();
});

/** Sends `content` as an upload; resolves with the status, or null when the line broke. `part` < 1 stops midway and waits. */
function upload(base: string, content: Buffer, part = 1): { status: Promise<number | null>; breakOff: () => void } {
  const request = http(`${base}/api/blobs`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream', 'content-length': content.length },
  });
  const status = new Promise<number | null>((resolve) => {
    request.on('response', (r) => {
      r.resume();
      resolve(r.statusCode ?? null);
    });
    request.on('error', () => resolve(null));
  });
  request.write(content.subarray(0, Math.floor(content.length * part)));
  if (part === 1) request.end();
  return { status, breakOff: () => request.destroy() };
}

const hashOf = (content: Buffer) => createHash('sha256').update(content).digest('hex');
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms));

test('an upload that breaks off leaves nothing, and the same content can be sent again', async ({
  request,
  baseURL,
}) => {
  const content = randomBytes(8 << 20);
  const broken = upload(baseURL!, content, 0.6);
  await pause(500);
  broken.breakOff();
  expect(await broken.status).toBeNull();
  expect((await request.get(`/api/blobs/${hashOf(content)}`)).status()).toBe(404);
  const twice = [upload(baseURL!, content), upload(baseURL!, content)];
  expect(await Promise.all(twice.map((u) => u.status))).toEqual([201, 201]);
  const back = await (await request.get(`/api/blobs/${hashOf(content)}`)).body();
  expect(back.equals(content)).toBe(true);
});

test('content that says it is too large is refused before it is sent', async ({ baseURL }) => {
  const refused = await new Promise<number | undefined>((resolve, reject) => {
    const request = http(`${baseURL}/api/blobs`, { method: 'PUT', headers: { 'content-length': 600e6 } }, (r) => {
      r.resume();
      resolve(r.statusCode);
      request.destroy();
    });
    request.on('error', reject);
    request.write('x');
  });
  expect(refused).toBe(413);
});

test('a server killed in the middle of an upload loses nothing that was kept, moods neither, and keeps nothing half', async ({
  request,
}) => {
  const port = Number(new URL(process.env.LANTERN_URL ?? 'http://127.0.0.1:4181').port) + 10;
  const base = `http://127.0.0.1:${port}`;
  const start = async (): Promise<ChildProcess> => {
    const child = spawn(
      process.execPath,
      ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(port)],
      { stdio: 'ignore' },
    );
    for (let i = 0; i < 150; i++) {
      if (await fetch(base).catch(() => null)) return child;
      await pause(100);
    }
    throw new Error(`no server on ${base}`);
  };
  const kept = randomBytes(3 << 20);
  const content = randomBytes(16 << 20);
  let server = await start();
  try {
    expect(await upload(base, kept).status).toBe(201);
    const { shot: own, draft } = await shot(request);
    const save = (mood: string, version: number) =>
      fetch(`${base}/api/shots/${own.id}/draft`, {
        method: 'PATCH',
        headers: { 'content-type': 'application/json', 'if-match': String(version) },
        body: JSON.stringify({ moods: { list: [{ id: mood, name: mood, mix: {} }] } }),
      }).catch(() => null);
    expect((await save('storm', draft.version))?.status).toBe(200);
    const broken = upload(base, content, 0.7);
    await pause(500);
    const saving = save('calm', draft.version + 1);
    server.kill('SIGKILL');
    await saving;
    expect(await broken.status).toBeNull();
    // The other server, on the same database, sees only what was whole.
    expect((await request.get(`/api/blobs/${hashOf(content)}`)).status()).toBe(404);
    expect((await (await request.get(`/api/blobs/${hashOf(kept)}`)).body()).equals(kept)).toBe(true);
    // Of what was being saved either all is there or nothing is.
    const moods = (await shot(request)).draft;
    const names = moods.moods.list.map((m) => m.name);
    expect([
      { names: ['storm'], version: draft.version + 1 },
      { names: ['calm'], version: draft.version + 2 },
    ]).toContainEqual({
      names,
      version: moods.version,
    });
    server = await start();
    const { status } = await fetch(`${base}/api/shots/${own.id}/draft`, {
      method: 'PATCH',
      headers: { 'content-type': 'application/json', 'if-match': String(moods.version) },
      body: JSON.stringify({ moods: draft.moods }),
    });
    expect(status).toBe(200);
    expect(await upload(base, content).status).toBe(201);
    expect((await (await request.get(`/api/blobs/${hashOf(content)}`)).body()).equals(content)).toBe(true);
  } finally {
    server.kill('SIGKILL');
  }
});
