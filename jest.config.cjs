module.exports = {
  testEnvironment: 'node',
  roots: ['<rootDir>/src', '<rootDir>/bench'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  transform: {
    '^.+\\.(t|j|mj)sx?$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'commonjs' },
      },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(d3|d3-[^/]+|internmap|delaunator|robust-predicates|@gltf-transform|property-graph|pg-boss|serialize-error|non-error|fast-png|iobuffer|pako|fflate|tiff|three)/)',
  ],
  setupFilesAfterEnv: ['<rootDir>/jest.setup.cjs'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  // Looking globals up in a test's own context is slow; these are handed to every file.
  sandboxInjectedGlobals: [
    ...['Math', 'Number', 'Array', 'DataView', 'Atomics'],
    ...['Float32Array', 'Float64Array', 'Int32Array', 'Uint8Array', 'Uint16Array', 'Uint32Array'],
  ],
  modulePathIgnorePatterns: ['<rootDir>/.next', '<rootDir>/build'],
  // Long enough that a loaded machine does not fail what is right.
  testTimeout: 240000,
};
