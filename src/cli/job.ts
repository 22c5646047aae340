import { extname, isAbsolute, relative, resolve } from 'node:path';
import { framesText, type JobPath, jobTemplate } from '@/core/runs';
import { writeWhole } from '@/node/folder';
import type { Arguments } from './args';

/** Options whose values are paths, what stands for them, and what they are. */
const PATHS: Record<string, Pick<JobPath, 'name' | 'kind' | 'flow' | 'description'>> = {
  out: { name: 'Folder', kind: 'folder', flow: 'OUT', description: 'Where files and manifest are written.' },
  outputs: { name: 'Outputs', kind: 'file', flow: 'IN', description: 'What is written of a frame.' },
  env: { name: 'Surroundings', kind: 'file', flow: 'IN', description: 'The picture of the surroundings.' },
  recipe: { name: 'Recipe', kind: 'file', flow: 'IN', description: 'How frames are rendered.' },
};
const SHOT = { name: 'Shot', kind: 'file', flow: 'IN', description: 'The shot, or its scene.' } as const;

/** What is about the one call, not the work. */
const OWN = ['job', 'json', 'frames', 'missing', 'overwrite', 'piece', 'order', 'threads'];

/** Writes what a call would do as a job for other queues; the file is read from the folder that it lies in. */
export async function writeJob(path: string, args: Arguments, frames: readonly number[], name: string): Promise<void> {
  const folder = resolve(path, '..');
  const paths: JobPath[] = [];
  const taken = (value: string, of: Omit<JobPath, 'relative'>): string => {
    const way = relative(folder, resolve(value));
    paths.push({ ...of, relative: way.startsWith('..') || isAbsolute(way) ? null : way || '.' });
    return `{{Param.${of.name}}}`;
  };
  const [shot] = args.positional;
  const call = ['run', extname(shot) === '' ? shot : taken(shot, SHOT)];
  for (const [option, values] of args.options) {
    if (OWN.includes(option)) continue;
    const of = PATHS[option];
    // A recipe may be one of ours, by its name.
    const isPath = of !== undefined && (option !== 'recipe' || extname(values[0]) !== '');
    call.push(`--${option}`, ...(isPath ? [taken(values[0], of)] : values));
  }
  const template = jobTemplate({
    name: `${name} ${framesText(frames)}`,
    program: 'lantern',
    frames,
    frameArguments: (text) => [...call, '--frames', text, '--missing', '--piece'],
    lastArguments: [...call, '--frames', framesText(frames), '--missing'],
    paths,
  });
  const file = resolve(path);
  await writeWhole(folder, file.slice(folder.length + 1), [Buffer.from(`${JSON.stringify(template, null, 2)}\n`)]);
}
