import { readFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import { heldCounts, measureCures } from './cures';

const module = new WebAssembly.Module(readFileSync('public/wasm/kernel.wasm'));
const r = await measureCures(module, pathToFileURL('build/thread.mjs'));
console.log(JSON.stringify(heldCounts(r.held), null, 1));
