import { checkGlb, type Finding, findingsOf, GltfError, packGltf, readGlb } from '@/core/gltf';
import { sizeFault } from '@/core/kernel';
import type { Scene, SceneDocument } from '@/core/scene';

/** A file as it was chosen or dropped: its path below the folder that all share. */
export interface GivenFile {
  path: string;
  bytes: Uint8Array;
}

/** A scene read from a file, and all there is to say about it. */
export interface ReadScene {
  scene: Scene;
  /** Bytes of pictures beside the geometry, by name. */
  contents: Map<string, Uint8Array>;
  findings: Finding[];
  /** What the standard's own validator and the reader warn of, in words. */
  warnings: string[];
}

/** What the validator says; only what is used of it. */
export interface Validation {
  issues: {
    numErrors: number;
    messages: { code: string; message: string; severity: number; pointer?: string; offset?: number }[];
  };
}
export type Validate = (
  bytes: Uint8Array,
  options: { maxIssues: number; externalResourceFunction?: (uri: string) => Promise<Uint8Array> },
) => Promise<Validation>;

const MOST_WARNINGS = 12;

/** Where an issue lies, as people find it: "material 3, normal texture". */
function placeOf(m: Validation['issues']['messages'][number]): string {
  if (m.offset !== undefined) return `byte ${m.offset}`;
  if (!m.pointer) return 'file';
  return m.pointer
    .split('/')
    .filter((p) => p !== '')
    .map((p) => p.replace(/([a-z])([A-Z])/g, (_, a, b) => `${a} ${b.toLowerCase()}`))
    .join(' › ');
}

const isMain = (path: string) => /\.(glb|gltf)$/i.test(path);

/**
 * Reads a scene out of files that belong together: one .glb or .gltf, and what it refers to. Throws `GltfError` in
 * words that name the file, the place and the fault; nothing is kept then.
 */
export async function readSceneFiles(
  files: readonly GivenFile[],
  validate: Validate,
  onStep: (words: string, fraction: number) => void = () => {},
): Promise<ReadScene & { name: string; document: SceneDocument }> {
  const main = files.find((f) => isMain(f.path));
  if (!main) throw new GltfError('choose a .glb, or a .gltf together with its files');
  const folder = main.path.includes('/') ? main.path.slice(0, main.path.lastIndexOf('/') + 1) : '';
  const file = main.path.slice(folder.length);
  const name = file.replace(/\.(glb|gltf)$/i, '');
  const fileOf = (path: string) => files.find((f) => f.path === folder + path || f.path === path)?.bytes ?? null;
  try {
    onStep('reading', 0.1);
    const isText = !(main.bytes[0] === 0x67 && main.bytes[1] === 0x6c && main.bytes[2] === 0x54);
    if (isText && !/\.gltf$/i.test(main.path)) throw new GltfError('not a GLB: it must begin with glTF');
    const bytes = isText ? packGltf(main.bytes, fileOf) : main.bytes;
    onStep('checking against the standard', 0.25);
    const warnings = await checked(bytes, validate);
    onStep('taking meshes and pictures', 0.5);
    const read = await readGlb(bytes, name);
    onStep('looking it over', 0.85);
    const findings = findingsOf(read.scene, read.notes);
    const fault = sizeFault(read.scene);
    if (fault) findings.unshift({ code: 'too-large', words: `It cannot be traced: ${fault}.`, about: [], fix: null });
    return {
      name,
      scene: read.scene,
      document: read.scene.document,
      contents: read.contents,
      findings,
      warnings: [...read.warnings, ...warnings],
    };
  } catch (error) {
    if (!(error instanceof Error)) throw error;
    throw new GltfError(`${file}: ${error.message}`);
  }
}

/** Runs the validator. Throws for what breaks the standard; returns the rest in words. */
async function checked(bytes: Uint8Array, validate: Validate): Promise<string[]> {
  let result: Validation;
  try {
    result = await validate(bytes, { maxIssues: 200 });
  } catch {
    // It throws where it fails itself, in words about its own workings.
    checkGlb(bytes);
    throw new GltfError('it cannot be read as glTF: its parts do not fit together');
  }
  const { messages } = result.issues;
  const errors = messages.filter((m) => m.severity === 0);
  if (errors.length > 0) {
    const first = errors[0];
    const more = errors.length > 1 ? ` (and ${errors.length - 1} more)` : '';
    throw new GltfError(`${placeOf(first)}: ${first.message}${more}`);
  }
  const kinds = new Map<string, { words: string; n: number }>();
  for (const m of messages.filter((x) => x.severity === 1)) {
    const known = kinds.get(m.code);
    if (known) known.n++;
    else kinds.set(m.code, { words: `${placeOf(m)}: ${m.message}`, n: 1 });
  }
  return [...kinds.values()].slice(0, MOST_WARNINGS).map(({ words, n }) => (n > 1 ? `${words} (${n} times)` : words));
}
