// Generates the constants of the kernel and of the filter from their layout.ts, and compiles both into public/wasm/; the loops of
// OpenEXR's packings, which have none, become a file of their bytes, since whoever reads files must have them at once.
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
    restsOn: ['src/core/kernel/layout-scene.ts', 'src/core/recipe/schema.ts', 'src/core/scene/document/terms.ts'],
    memory: () => ['--sharedMemory', '--initialMemory', '16', '--maximumMemory', '32768', '--enable', 'threads'],
  },
  {
    name: 'denoise',
    folder: 'src/core/denoise',
    restsOn: [],
    memory: ({ MEMORY_PAGES }) => ['--initialMemory', String(MEMORY_PAGES)],
  },
  {
    name: 'exr',
    folder: 'src/core/exr/codecs',
    restsOn: [],
    memory: () => ['--initialMemory', '1'],
    bytes: 'hot-bytes.ts',
  },
  {
    name: 'comp',
    folder: 'src/core/comp',
    restsOn: [],
    memory: () => ['--sharedMemory', '--initialMemory', '1', '--maximumMemory', '32768', '--enable', 'threads'],
    bytes: 'hot-bytes.ts',
  },
  {
    name: 'film',
    folder: 'src/core/film',
    restsOn: [],
    memory: () => ['--initialMemory', '1'],
    bytes: 'hot-bytes.ts',
  },
];

/** Writes the constants of a module into its assembly, and gives them. */
async function constantsOf(name, layout, generated) {
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
  return module;
}

async function compile({ name, folder, restsOn, memory, bytes }) {
  const assembly = join(root, folder, 'assembly');
  const out = join(root, bytes ? `build/${name}.wasm` : `public/wasm/${name}.wasm`);
  const layout = join(root, folder, 'layout.ts');
  const generated = bytes ? join(root, folder, bytes) : join(assembly, 'layout.ts');
  const sources = readdirSync(assembly)
    .filter((f) => f !== 'layout.ts')
    .map((f) => join(assembly, f));
  const rests = restsOn.map((f) => join(root, f));
  const newest = Math.max(
    ...[...(bytes ? [] : [layout]), ...rests, fileURLToPath(import.meta.url), ...sources].map(
      (f) => statSync(f).mtimeMs,
    ),
  );
  if (existsSync(out) && existsSync(generated) && statSync(out).mtimeMs > newest) return;

  const module = bytes ? {} : await constantsOf(name, layout, generated);

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
  if (bytes) {
    const text = readFileSync(out).toString('base64');
    writeFileSync(generated, `// Generated from assembly/ by scripts/build-wasm.mjs.\nexport const HOT = '${text}';\n`);
  }
  process.stdout.write(`${name}: ${statSync(out).size} bytes\n`);
}

for (const module of MODULES) await compile(module);
