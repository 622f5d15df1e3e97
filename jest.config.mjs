export default {
  testMatch: ['<rootDir>/test/**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  transform: { '^.+\\.ts$': ['@swc/jest', { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'es6' } }] },
  // Tests and examples use the sources, under the names that an application uses.
  moduleNameMapper: {
    '^jestril$': '<rootDir>/src/index.ts',
    '^jestril/memory$': '<rootDir>/src/records/memory.ts',
    '^jestril/sql$': '<rootDir>/src/records/sql/index.ts',
    '^jestril/catalogues$': '<rootDir>/src/core/messages/catalogues/index.ts',
    '^jestril/locale$': '<rootDir>/src/http/locale.ts',
    '^jestril/proof$': '<rootDir>/src/proof/index.ts',
    '^jestril/jest$': '<rootDir>/src/proof/jest.ts',
    '^jestril/linear$': '<rootDir>/src/formats/linear.ts',
    '^jestril/markup$': '<rootDir>/src/formats/markup.ts',
    '^jestril/express$': '<rootDir>/src/http/express.ts',
    '^jestril/fetch$': '<rootDir>/src/http/fetch.ts',
    '^jestril/browser$': '<rootDir>/src/browser/index.ts',
    '^jestril/form$': '<rootDir>/src/http/form.ts',
    '^@pellwick/harbour-rules$': '<rootDir>/examples/harbour-rules/index.ts',
    '^@pellwick/marina$': '<rootDir>/examples/marina/index.ts',
  },
  reporters: ['default', '<rootDir>/scripts/skipped-reporter.mjs'],
};
