import { readFile } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { readGlb } from '@/core/gltf';
import { applyOverlay, assembleRead, parseOverlay, type Scene } from '@/core/scene';
import { SHOTS } from '@/core/shots';
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

/** A scene by a shot's name, or from a .glb or scene document. Throws `UsageError` naming the file and the fault. */
export async function loadBase(name: string, warnings: Warning[]): Promise<Scene> {
  if (Object.hasOwn(SHOTS, name)) return SHOTS[name]();
  if (extname(name) === '.glb') return loadGlb(name, warnings);
  if (extname(name) === '.json') return loadDocument(name, warnings);
  throw new UsageError(`${name}: neither a shot (${Object.keys(SHOTS).join(', ')}) nor a .glb or .json file`);
}
