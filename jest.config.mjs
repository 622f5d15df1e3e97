import { readFileSync } from 'node:fs';

/** What an application imports, and the source of each: package.json has the list. */
function ownNames() {
  const { exports } = JSON.parse(readFileSync(new URL('package.json', import.meta.url), 'utf8'));
  return Object.fromEntries(
    Object.entries(exports).flatMap(([name, { 'jestril-source': source } = {}]) =>
      source ? [[`^jestril${name.slice(1)}$`, source.replace('./', '<rootDir>/')]] : [],
    ),
  );
}

// The core's tests run a second time with generated code from the first judgement on.
const sources = {
  testMatch: ['<rootDir>/test/**/*.test.ts'],
  setupFiles: ['<rootDir>/test/support/seeds.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  transform: { '^.+\\.ts$': ['@swc/jest', { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'es6' } }] },
  // Tests and examples use the sources, under the names that an application uses.
  moduleNameMapper: {
    '^#catalogue-check$': '<rootDir>/src/core/messages/check-catalogues.ts',
    '^#pattern-proof$': '<rootDir>/src/core/patterns/linear.ts',
    '^#zone-names$': '<rootDir>/src/core/basics/zones.ts',
    ...ownNames(),
    '^@pellwick/harbour-rules$': '<rootDir>/examples/harbour-rules/index.ts',
    '^@pellwick/marina$': '<rootDir>/examples/marina/index.ts',
  },
};

export default {
  // Commands, servers and browsers of a busy machine take their time; no test measures it, and none has a limit of its own.
  testTimeout: 600_000,
  maxWorkers: '100%',
  reporters: ['default', '<rootDir>/scripts/skipped-reporter.mjs'],
  projects: [
    sources,
    {
      ...sources,
      displayName: 'generated code',
      testMatch: ['<rootDir>/test/core/**/*.test.ts'],
      testPathIgnorePatterns: ['executors', 'boundaries', 'own-expressions', 'patterns', 'sentences'],
      moduleNameMapper: { ...sources.moduleNameMapper, '^jestril$': '<rootDir>/test/support/at-once.ts' },
    },
  ],
};
