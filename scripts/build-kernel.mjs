// Generates the kernel's constants from layout.ts and compiles the kernel to public/wasm/kernel.wasm.
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';
import { build } from 'esbuild';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const assembly = join(root, 'src/core/kernel/assembly');
const out = join(root, 'public/wasm/kernel.wasm');
const layout = join(root, 'src/core/kernel/layout.ts');
// What the layout rests on: planes and classes are named by the recipe.
const restsOn = ['src/core/kernel/layout-scene.ts', 'src/core/recipe/schema.ts'].map((f) => join(root, f));
const generated = join(assembly, 'layout.ts');

const sources = readdirSync(assembly)
  .filter((f) => f !== 'layout.ts')
  .map((f) => join(assembly, f));
const newest = Math.max(
  ...[layout, ...restsOn, fileURLToPath(import.meta.url), ...sources].map((f) => statSync(f).mtimeMs),
);
if (existsSync(out) && existsSync(generated) && statSync(out).mtimeMs > newest) process.exit(0);

const bundled = join(root, 'build/kernel-layout.mjs');
await build({ entryPoints: [layout], bundle: true, format: 'esm', outfile: bundled });
const module = await import(bundled);
const lines = ['// Generated from ../layout.ts by scripts/build-kernel.mjs.'];
for (const [name, value] of Object.entries(module.KERNEL_CONSTANTS))
  lines.push(`export const ${name}: i32 = ${value};`);
for (const [name, value] of Object.entries(module.KERNEL_REALS)) lines.push(`export const ${name}: f32 = ${value};`);
const text = `${lines.join('\n')}\n`;
if (!existsSync(generated) || readFileSync(generated, 'utf8') !== text) writeFileSync(generated, text);

mkdirSync(dirname(out), { recursive: true });
const { error, stderr } = await asc.main([
  join(assembly, 'index.ts'),
  '--outFile',
  out,
  '--runtime',
  'stub',
  '--importMemory',
  '--sharedMemory',
  '--initialMemory',
  '16',
  '--maximumMemory',
  '32768',
  '--enable',
  'simd',
  '--enable',
  'threads',
  '--enable',
  'bulk-memory',
  '--noAssert',
  '-O3',
  '--zeroFilledMemory',
  ...(process.argv.includes('--names') ? ['--debug'] : []),
]);
if (error) {
  process.stderr.write(`${stderr.toString()}\nkernel: ${error.message}\n`);
  process.exit(1);
}
process.stdout.write(`kernel: ${statSync(out).size} bytes\n`);
