// The core's tests run a second time with generated code from the first judgement on.
const sources = {
  testMatch: ['<rootDir>/test/**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  transform: { '^.+\\.ts$': ['@swc/jest', { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'es6' } }] },
  // Tests and examples use the sources, under the names that an application uses.
  moduleNameMapper: {
    '^#pattern-proof$': '<rootDir>/src/core/patterns/linear.ts',
    '^jestril$': '<rootDir>/src/index.ts',
    '^jestril/code$': '<rootDir>/src/core/with-code.ts',
    '^jestril/memory$': '<rootDir>/src/records/memory.ts',
    '^jestril/sql$': '<rootDir>/src/records/sql/index.ts',
    '^jestril/catalogues$': '<rootDir>/src/core/messages/catalogues/index.ts',
    '^jestril/locale$': '<rootDir>/src/http/receive/locale.ts',
    '^jestril/proof$': '<rootDir>/src/proof/index.ts',
    '^jestril/jest$': '<rootDir>/src/proof/jest.ts',
    '^jestril/linear$': '<rootDir>/src/formats/linear.ts',
    '^jestril/markup$': '<rootDir>/src/formats/markup.ts',
    '^jestril/express$': '<rootDir>/src/http/express.ts',
    '^jestril/content$': '<rootDir>/src/formats/content.ts',
    '^jestril/request$': '<rootDir>/src/http/request.ts',
    '^jestril/files$': '<rootDir>/src/http/files-in.ts',
    '^jestril/fetch$': '<rootDir>/src/http/fetch.ts',
    '^jestril/browser$': '<rootDir>/src/browser/index.ts',
    '^jestril/form$': '<rootDir>/src/forms/form.ts',
    '^@pellwick/harbour-rules$': '<rootDir>/examples/harbour-rules/index.ts',
    '^@pellwick/marina$': '<rootDir>/examples/marina/index.ts',
  },
};

export default {
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
