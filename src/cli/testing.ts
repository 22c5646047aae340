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
