import { validateBytes } from 'gltf-validator';
import { fixFinding } from '@/core/gltf';
import { decodeSrgb } from '@/core/image';
import { type Content, formatOf, makeSky, type Scene, sceneBounds } from '@/core/scene';
import { inflateInPage } from '../zlib/in-page';
import { describeLayers } from './describe-layers';
import type { FromImport, ToImport } from './protocol';
import { environmentValues, readPicture } from './read-picture';
import { type ReadScene, readSceneFiles } from './read-scene';

const post = (message: FromImport) => (self as unknown as Worker).postMessage(message);

let last: ReadScene | null = null;

async function put(bytes: Uint8Array): Promise<string> {
  const own = bytes as Uint8Array<ArrayBuffer>;
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', own));
  const response = await fetch('/api/blobs', {
    method: 'PUT',
    // A blob is kept outside of this process and sent from there.
    body: new Blob([own]),
    headers: { 'content-digest': `sha-256=:${btoa(String.fromCharCode(...digest))}:` },
  });
  const value = await response.json().catch(() => null);
  if (!response.ok) throw new Error(value?.error?.message ?? `the server answered ${response.status}`);
  return value.hash;
}

async function readScene(message: Extract<ToImport, { type: 'scene' }>): Promise<void> {
  last = null;
  const files = await Promise.all(
    message.files.map(async ({ path, file }) => ({ path, bytes: new Uint8Array(await file.arrayBuffer()) })),
  );
  const read = await readSceneFiles(files, validateBytes, (words, fraction) => post({ type: 'step', words, fraction }));
  last = read;
  const { document } = read;
  const triangles = new Map(document.geometry.meshes.map((m) => [m.name, m.triangles]));
  const { low, high } = sceneBounds(read.scene);
  post({
    type: 'read',
    name: read.name,
    findings: read.findings,
    warnings: read.warnings,
    counts: {
      objects: document.objects.length,
      triangles: document.objects.reduce((n, o) => n + (triangles.get(o.mesh) ?? 0), 0),
      lights: document.lights.length,
      cameras: document.cameras.length,
      materials: document.materials.length,
      metres: Math.max(...high.map((c, k) => c - low[k])),
    },
  });
}

async function keep(fixes: readonly string[]): Promise<void> {
  if (!last) throw new Error('nothing has been read');
  let scene: Scene = last.scene;
  for (const f of last.findings) if (fixes.includes(f.code)) scene = fixFinding(scene, f);
  post({ type: 'step', words: 'storing', fraction: 0.9 });
  const hash = await put(scene.geometry);
  const contents: Content[] = [];
  for (const c of scene.document.contents) {
    const bytes = last.contents.get(c.name);
    if (bytes) contents.push({ ...c, hash: await put(bytes), bytes: bytes.length });
  }
  const sky = fixes.includes('no-light') ? makeSky(scene.document.cameras[0].exposure) : null;
  post({
    type: 'kept',
    document: {
      ...scene.document,
      contents,
      environment: scene.document.environment ?? sky,
      geometry: { ...scene.document.geometry, hash },
    },
  });
}

async function readOne({ file, use }: Extract<ToImport, { type: 'picture' }>): Promise<void> {
  post({ type: 'step', words: 'reading', fraction: 0.2 });
  const bytes = new Uint8Array(await file.arrayBuffer());
  const picture = await readPicture(file.name, bytes, inflateInPage);
  const { width, height } = picture;
  if (use === 'environment' && Math.abs(width / height - 2) > 0.1)
    throw new Error(`${file.name}: ${width}×${height} pixels; surroundings must be twice as wide as high`);
  const values = use === 'environment' ? environmentValues(picture, decodeSrgb) : picture.values;
  post({ type: 'step', words: 'storing', fraction: 0.6 });
  const raw = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  post({
    type: 'content',
    content: {
      name: file.name.replace(/\.[^.]*$/, '').slice(0, 110) || 'picture',
      use,
      hash: await put(raw),
      bytes: raw.length,
      width,
      height,
      channels: use === 'environment' ? 3 : picture.channels,
      format: formatOf(values),
      ...(picture.alpha && use !== 'environment' ? { alpha: picture.alpha } : {}),
      ...(picture.primaries && use !== 'environment' ? { primaries: [...picture.primaries] } : {}),
    },
  });
}

async function keepLayers({ file }: Extract<ToImport, { type: 'layers' }>): Promise<void> {
  post({ type: 'step', words: 'reading', fraction: 0.2 });
  const bytes = new Uint8Array(await file.arrayBuffer());
  const told = await describeLayers(file.name, bytes);
  post({ type: 'step', words: 'storing', fraction: 0.6 });
  const hash = await put(bytes);
  const name = file.name.replace(/\.[^.]*$/, '').slice(0, 110) || 'layers';
  post({ type: 'content', content: { name, use: 'layers', hash, bytes: bytes.length, ...told } });
}

self.onmessage = (event: MessageEvent<ToImport>) => {
  const m = event.data;
  const work =
    m.type === 'scene'
      ? readScene(m)
      : m.type === 'keep'
        ? keep(m.fixes)
        : m.type === 'layers'
          ? keepLayers(m)
          : readOne(m);
  work.catch((error) => post({ type: 'failed', message: (error as Error).message }));
};
