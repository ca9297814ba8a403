/** Unit tests: everything under tests/ but the browser's. */
module.exports = {
  testEnvironment: 'node',
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
  modulePathIgnorePatterns: ['<rootDir>/.output', '<rootDir>/dist', '<rootDir>/.nuxt'],
}
