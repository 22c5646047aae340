import { readFileSync } from 'node:fs';
import { packOnThreads } from '@/node/zlib';
import { UsageError } from './args';
import type { Assets } from './assets';
import { run } from './verbs';

const root = new URL('..', import.meta.url);
const assets: Assets = {
  kernel: new URL('public/wasm/kernel.wasm', root),
  filter: new URL('public/wasm/denoise.wasm', root),
  thread: new URL('./thread.mjs', import.meta.url),
  version: JSON.parse(readFileSync(new URL('package.json', root), 'utf8')).version,
};

packOnThreads(new URL('./packing.mjs', import.meta.url));
run(process.argv.slice(2), assets).then(
  (code) => {
    process.exitCode = code;
  },
  (error) => {
    if (process.env.LANTERN_TRACE) process.stderr.write(`${(error as Error).stack}\n`);
    process.stderr.write(`lantern: ${(error as Error).message.split('\n')[0]}\n`);
    process.exitCode = error instanceof UsageError ? 2 : 1;
  },
);
