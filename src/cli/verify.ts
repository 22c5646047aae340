import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { MANIFEST_NAME, type Manifest, manifestSchema, verifyFiles } from '@/core/runs';
import { fileHash } from '@/node/folder';
import { one, parseArguments, print, UsageError } from './args';

/** The manifest of a folder, or of a piece by its name; null where there is none. Throws for one that cannot be read. */
export async function manifestIn(dir: string, name = MANIFEST_NAME): Promise<Manifest | null> {
  const text = await readFile(join(dir, name), 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null;
    throw new UsageError(`${dir}: ${error.message}`);
  });
  if (text === null) return null;
  try {
    return manifestSchema.parse(JSON.parse(text));
  } catch {
    throw new UsageError(`${join(dir, name)}: it is no manifest of delivered files`);
  }
}

/** `lantern verify`: holds delivered files against their manifest. Returns the exit code: 1 where one is not as it was delivered. */
export async function verify(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('verify needs one folder');
  const [dir] = args.positional;
  const manifest = await manifestIn(dir);
  if (!manifest) throw new UsageError(`${join(dir, MANIFEST_NAME)}: no such file`);
  const faults = await verifyFiles(manifest, (name) => fileHash(join(dir, name)));
  const isWhole = faults.length === 0 && manifest.complete;
  const words = [
    ...faults.map((f) => `${join(dir, f.name)}: ${f.fault}\n`),
    `${manifest.files.length - faults.length} of ${manifest.files.length} files are as they were delivered${manifest.complete ? '' : '; the run is not complete'}\n`,
  ];
  print(
    one(args, 'json') === '-',
    { folder: dir, complete: manifest.complete, files: manifest.files.length, faults },
    words.join(''),
  );
  return isWhole ? 0 : 1;
}
