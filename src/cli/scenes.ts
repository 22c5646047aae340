import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { readGlb } from '@/core/gltf';
import { CONTENT_FOLDER, parsePackage, SHOT_FILE, type ShotPackage } from '@/core/package';
import { Assembler, applyOverlay, assembleRead, parseOverlay, type Scene } from '@/core/scene';
import { SHOTS } from '@/core/shots';
import { sha256 } from '@/node/hash';
import { readTar } from '@/node/package';
import { UsageError } from './args';

/** Something about the input that is worth a word, and goes on. */
export interface Warning {
  code: string;
  path: string;
  message: string;
}

export async function file(path: string): Promise<Uint8Array> {
  try {
    return new Uint8Array(await readFile(path));
  } catch (error) {
    throw new UsageError(
      `${path}: ${(error as NodeJS.ErrnoException).code === 'ENOENT' ? 'no such file' : (error as Error).message}`,
    );
  }
}

async function loadGlb(name: string, warnings: Warning[]): Promise<Scene> {
  const bytes = await file(name);
  try {
    const read = await readGlb(bytes, basename(name, '.glb'));
    for (const message of read.warnings) warnings.push({ code: 'gltf', path: name, message });
    return assembleRead(read.scene, read.contents);
  } catch (error) {
    throw new UsageError(`${name}: ${(error as Error).message}`);
  }
}

/** A scene document and the base that it names, a shot or a GLB beside it. */
async function loadDocument(name: string, warnings: Warning[]): Promise<Scene> {
  const text = new TextDecoder().decode(await file(name));
  try {
    const overlay = parseOverlay(JSON.parse(text));
    const { base } = overlay;
    const scene = Object.hasOwn(SHOTS, base) ? SHOTS[base]() : await loadGlb(join(dirname(name), base), warnings);
    return applyOverlay(scene, overlay);
  } catch (error) {
    if (error instanceof UsageError) throw error;
    throw new UsageError(`${name}: ${(error as Error).message}`);
  }
}

/** A package of a shot: its scene, and the rest of it. Throws `UsageError` naming the file and the fault. */
export async function loadPackage(
  name: string,
): Promise<{ scene: Scene; shot: ShotPackage; contentOf: (hash: string) => Uint8Array }> {
  const contents = new Map<string, Uint8Array>();
  let shot: ShotPackage | null = null;
  try {
    await readTar(createReadStream(name), async (entry, _, pieces) => {
      const parts: Uint8Array[] = [];
      for await (const piece of pieces) parts.push(piece.slice());
      const bytes = new Uint8Array(Buffer.concat(parts));
      if (entry === SHOT_FILE) shot = parsePackage(JSON.parse(new TextDecoder().decode(bytes)));
      else contents.set(entry.slice(CONTENT_FOLDER.length), bytes);
    });
    if (!shot) throw new Error(`${SHOT_FILE} is not in it`);
    const { scene } = shot as ShotPackage;
    const contentOf = (hash: string) => {
      const found = contents.get(hash);
      if (!found || sha256(found) !== hash)
        throw new Error(`content ${hash.slice(0, 12)} is not in it, or is not what its name says`);
      return found;
    };
    return { scene: new Assembler(contentOf).scene(scene), shot, contentOf };
  } catch (error) {
    throw new UsageError(`${name}: ${(error as Error).message.split('\n')[0]}`);
  }
}

/** A scene by a shot's name, or from a .glb, a scene document or a package. Throws `UsageError` naming the file and the fault. */
export async function loadBase(name: string, warnings: Warning[]): Promise<Scene> {
  if (Object.hasOwn(SHOTS, name)) return SHOTS[name]();
  if (extname(name) === '.glb') return loadGlb(name, warnings);
  if (extname(name) === '.json') return loadDocument(name, warnings);
  if (extname(name) === '.tar') return (await loadPackage(name)).scene;
  throw new UsageError(`${name}: neither a shot (${Object.keys(SHOTS).join(', ')}) nor a .glb, .json or .tar file`);
}
