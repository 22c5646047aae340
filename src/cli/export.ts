import { rename, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { writeGlb } from '@/core/gltf';
import type { Scene } from '@/core/scene';
import { one, parseArguments, UsageError } from './args';
import { loadBase, type Warning } from './scenes';

/** A scene document that names a base and states everything of it that documents can state. */
function documentOf(base: string, { document }: Scene): object {
  const { name, width, height, frames, materials, lights, cameras, portals, environment, fogs, look, sets, setRules } =
    document;
  const objects = document.objects.map((o) => ({
    name: o.name,
    material: o.material,
    transform: o.transform,
    rules: o.rules,
    motion: o.motion,
    shapes: o.shapes,
  }));
  return {
    schema: 1,
    base,
    name,
    width,
    height,
    frames,
    materials,
    lights,
    cameras,
    portals,
    objects,
    environment,
    // Only those that are here: a base may have others.
    fog: null,
    fogs,
    look,
    sets,
    setRules,
  };
}

/** `lantern export`: a shot or scene as a GLB, or as a scene document over its base. */
export async function exportScene(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { out: 'value' });
  const [name, ...more] = args.positional;
  if (name === undefined || more.length > 0) throw new UsageError('export: name one shot, .glb or .json file');
  const out = one(args, 'out');
  if (out === undefined) throw new UsageError('--out: name the file to write, .glb or .json');
  const kind = extname(out);
  if (kind !== '.glb' && kind !== '.json') throw new UsageError(`--out: ${out} must end in .glb or .json`);
  if (kind === '.json' && extname(name) === '.json') throw new UsageError(`${name}: is a scene document already`);
  const warnings: Warning[] = [];
  const scene = await loadBase(name, warnings);
  for (const w of warnings) process.stderr.write(`${w.path}: ${w.message}\n`);
  const bytes =
    kind === '.glb' ? writeGlb(scene.document, scene) : `${JSON.stringify(documentOf(name, scene), null, 2)}\n`;
  await writeFile(`${out}.part`, bytes);
  await rename(`${out}.part`, out);
  return 0;
}
