/** Imports run one way; see docs/architecture.md. */
const core = (name, allowed) => ({
  name: `core-${name}`,
  severity: 'error',
  comment: `core/${name} may import ${allowed.join(', ') || 'nothing'} beside itself`,
  from: { path: `^src/core/${name}/`, pathNot: '\\.test\\.ts$' },
  to: { path: '^src/', pathNot: `^src/core/(${[name, ...allowed].join('|')})/` },
});
module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    core('fmath', []),
    core('image', ['fmath']),
    core('recipe', []),
    core('scene', ['image', 'fmath']),
    core('stats', ['image']),
    core('kernel', ['scene', 'recipe', 'image', 'fmath']),
    core('film', ['image', 'stats', 'kernel', 'recipe', 'scene']),
    core('exr', ['film', 'image']),
    core('shots', ['scene', 'fmath']),
    {
      name: 'core-is-pure', severity: 'error', comment: 'the core runs the same in page, worker, server and test',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-packages', severity: 'error', comment: 'the core uses few packages, none of them of a host',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['npm', 'npm-dev'], pathNot: 'node_modules/(zod|fast-png|@gltf-transform)/' },
    },
    {
      name: 'core-by-index', severity: 'error', comment: 'outsiders import a core folder by its index alone',
      from: { path: '^src/(?!core/)|^bench/' },
      to: { path: '^src/core/[^/]+/(?!index\\.ts$)', pathNot: '^src/core/kernel/layout\\.ts$' },
    },
    { name: 'render-on-core', severity: 'error', from: { path: '^src/render/' }, to: { path: '^src/(server|cli|app|ui)/' } },
    { name: 'cli-on-render', severity: 'error', from: { path: '^src/cli/' }, to: { path: '^src/(server|app|ui)/' } },
    { name: 'db-at-the-bottom', severity: 'error', from: { path: '^src/server/db/', pathNot: 'main\\.ts$|\\.test\\.ts$' }, to: { path: '^src/(server/(jobs|http|storage)|render|cli|app|ui)/' } },
    { name: 'storage-on-db', severity: 'error', from: { path: '^src/server/storage/', pathNot: '\\.test\\.ts$' }, to: { path: '^src/(server/(jobs|http)|render|cli|app|ui)/' } },
    { name: 'server-not-on-ui', severity: 'error', from: { path: '^src/server/' }, to: { path: '^src/(app|ui|cli)/' } },
    { name: 'ui-not-on-server', severity: 'error', from: { path: '^src/ui/' }, to: { path: '^src/(server|app|cli)/' } },
    { name: 'tests-stay-out', severity: 'error', from: { pathNot: '\\.test\\.ts$|testing\\.ts$|^bench/' }, to: { path: 'testing\\.ts$' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^src/core/kernel/assembly|^\\.next|^build' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.mjs', '.js', '.css'] },
  },
};
