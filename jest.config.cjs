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
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  modulePathIgnorePatterns: ['<rootDir>/.next', '<rootDir>/build'],
  // Long enough that a loaded machine does not fail what is right.
  testTimeout: 240000,
};
