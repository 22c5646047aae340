// Bundles the command line, its tracing threads and the render worker into build/.
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const entries = {
  cli: 'src/cli/main.ts',
  thread: 'src/render/node/thread.ts',
  packing: 'src/node/packing/thread.ts',
  worker: 'src/server/jobs/main.ts',
  migrate: 'src/server/db/main.ts',
};
await build({
  entryPoints: Object.fromEntries(
    Object.entries(entries)
      .filter(([, f]) => existsSync(join(root, f)))
      .map(([n, f]) => [n, join(root, f)]),
  ),
  outdir: join(root, 'build'),
  outExtension: { '.js': '.mjs' },
  bundle: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  sourcemap: true,
  alias: { '@': join(root, 'src') },
  logLevel: 'warning',
});
