export default {
  testEnvironment: 'node',
  testMatch: ['**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/e2e/', '/build/'],
  modulePathIgnorePatterns: ['/build/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '<rootDir>/scripts/jest-transform.mjs',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2023' }, module: { type: 'es6' } },
    ],
  },
  // Jest leaves a core free by default; on two cores that is half of them.
  maxWorkers: 2,
  testTimeout: 120000,
}
