/** Unit tests: everything under tests/ but the browser's. */
module.exports = {
  testEnvironment: 'node',
  // What a test takes is for the tests that time; this ends one that hangs, on a slow computer too.
  testTimeout: 120_000,
  // What computing asks of all the time: looked up in a test's own context, each of them costs as much as a call does,
  // and tests that only compute took three times as long. Only names that no module has something of its own under.
  sandboxInjectedGlobals: ['Math', 'Number', 'Object', 'JSON'],
  roots: ['<rootDir>/tests'],
  testPathIgnorePatterns: ['<rootDir>/tests/browser/'],
  testMatch: ['**/*.test.ts'],
  transform: {
    '\\.sql$': '<rootDir>/tests/sql-as-text.cjs',
    '^.+\\.ts$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'commonjs' } },
    ],
  },
  // As the pages write them.
  moduleNameMapper: {
    '^~~/(.*)$': '<rootDir>/$1',
    '^~/(.*)$': '<rootDir>/app/$1',
    // Its main file is a module, which Jest does not take; this one is the same.
    '^marked$': '<rootDir>/node_modules/marked/lib/marked.umd.js',
  },
  modulePathIgnorePatterns: ['<rootDir>/.output', '<rootDir>/dist', '<rootDir>/.nuxt'],
}
