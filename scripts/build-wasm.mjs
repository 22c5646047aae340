// Generates the constants of the kernel and of the filter from their layout.ts, and compiles both into public/wasm/.
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';
import { build } from 'esbuild';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** Modules of inner loops: where they are, what their layouts rest on, and how their memory is made. */
const MODULES = [
  {
    name: 'kernel',
    folder: 'src/core/kernel',
    // Planes and classes are named by the recipe.
    restsOn: ['src/core/kernel/layout-scene.ts', 'src/core/recipe/schema.ts'],
    memory: () => ['--sharedMemory', '--initialMemory', '16', '--maximumMemory', '32768', '--enable', 'threads'],
  },
  {
    name: 'denoise',
    folder: 'src/core/denoise',
    restsOn: [],
    memory: ({ MEMORY_PAGES }) => ['--initialMemory', String(MEMORY_PAGES)],
  },
];

async function compile({ name, folder, restsOn, memory }) {
  const assembly = join(root, folder, 'assembly');
  const out = join(root, `public/wasm/${name}.wasm`);
  const layout = join(root, folder, 'layout.ts');
  const generated = join(assembly, 'layout.ts');
  const sources = readdirSync(assembly)
    .filter((f) => f !== 'layout.ts')
    .map((f) => join(assembly, f));
  const rests = restsOn.map((f) => join(root, f));
  const newest = Math.max(
    ...[layout, ...rests, fileURLToPath(import.meta.url), ...sources].map((f) => statSync(f).mtimeMs),
  );
  if (existsSync(out) && existsSync(generated) && statSync(out).mtimeMs > newest) return;

  const bundled = join(root, `build/${name}-layout.mjs`);
  await build({ entryPoints: [layout], bundle: true, format: 'esm', outfile: bundled });
  const module = await import(bundled);
  const lines = ['// Generated from ../layout.ts by scripts/build-wasm.mjs.'];
  for (const [key, value] of Object.entries(module.WASM_CONSTANTS)) lines.push(`export const ${key}: i32 = ${value};`);
  for (const [key, value] of Object.entries(module.WASM_ADDRESSES ?? {}))
    lines.push(`export const ${key}: usize = ${value};`);
  for (const [key, value] of Object.entries(module.WASM_REALS)) lines.push(`export const ${key}: f32 = ${value};`);
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
    ...memory(module),
    '--enable',
    'simd',
    '--enable',
    'bulk-memory',
    '--noAssert',
    '-O3',
    '--zeroFilledMemory',
    ...(process.argv.includes('--names') ? ['--debug'] : []),
  ]);
  if (error) {
    process.stderr.write(`${stderr.toString()}\n${name}: ${error.message}\n`);
    process.exit(1);
  }
  process.stdout.write(`${name}: ${statSync(out).size} bytes\n`);
}

for (const module of MODULES) await compile(module);
