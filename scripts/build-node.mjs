// Bundles the command line, its tracing threads and the render worker into build/.
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
/** What whoever works on the command line waits for each time brings its packages along: one file is there sooner than hundreds. */
const quick = {
  cli: 'src/cli/main.ts',
  thread: 'src/render/node/thread.ts',
  packing: 'src/node/packing/thread.ts',
};
const lasting = {
  worker: 'src/server/jobs/main.ts',
  migrate: 'src/server/db/main.ts',
};
const bundle = (entries, more) =>
  build({
    entryPoints: Object.fromEntries(Object.entries(entries).map(([n, f]) => [n, join(root, f)])),
    outdir: join(root, 'build'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    sourcemap: true,
    alias: { '@': join(root, 'src') },
    logLevel: 'warning',
    ...more,
  });
await bundle(quick, {
  // Packages that are no modules ask for what Node has by `require`.
  banner: {
    js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
  },
});
await bundle(lasting, { packages: 'external' });
