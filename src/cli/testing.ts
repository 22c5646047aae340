import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { UsageError } from './args';
import type { Assets } from './assets';
import { run } from './verbs';

const root = pathToFileURL(`${join(__dirname, '../..')}/`);
const ASSETS: Assets = {
  kernel: new URL('public/wasm/kernel.wasm', root),
  filter: new URL('public/wasm/denoise.wasm', root),
  thread: new URL('build/thread.mjs', root),
  version: 'test',
};

/** The one line in which arguments or input are refused, as the command line writes it before it ends with 2. Throws where they are not. */
export async function refusal(...argv: string[]): Promise<string> {
  const error: unknown = await run(argv, ASSETS).then(
    () => new Error(`${argv.join(' ')} was not refused`),
    (e) => e,
  );
  if (!(error instanceof UsageError) || error.message.includes('\n')) throw error;
  return error.message;
}

/** What arguments run: commands that trace or denoise get one thread unless they name a number, since other tests run beside. */
export function onOneThread(args: readonly string[]): string[] {
  const heavy = ['render', 'denoise', 'run'].includes(args[0]) && args.length > 1 && !args.includes('--threads');
  return heavy ? [...args, '--threads', '1'] : [...args];
}

export const LANTERN = join(__dirname, '../../bin/lantern');

/** Runs the command line as a process of its own. */
export function lantern(...args: string[]): { code: number | null; out: string; err: string } {
  const r = spawnSync(LANTERN, onOneThread(args), { encoding: 'utf8', maxBuffer: 1 << 26, env: process.env });
  return { code: r.status, out: r.stdout, err: r.stderr };
}
