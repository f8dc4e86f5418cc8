/** Mutation testing of what decides: verdicts, deliveries, treatments. By hand, `npm run mutate`: it takes most of an hour. */
import jest from './jest.config.mjs';

export default {
  testRunner: 'jest',
  testRunnerNodeArgs: ['--experimental-vm-modules', '--no-warnings'],
  jest: {
    projectType: 'custom',
    config: {
      ...jest,
      // Tests of these rooms that need no thread, no server and no long signal.
      testMatch: [
        '<rootDir>/src/core/{delivery,file-formats,receiver,spec,treatment}/**/*.test.ts',
        '!**/{limited-solver,solver,room-tone}.test.ts',
      ],
    },
    enableFindRelatedTests: true,
  },
  coverageAnalysis: 'perTest',
  mutate: [
    'src/core/{delivery,spec,treatment}/**/*.ts',
    '!**/*.test.ts',
    // Their tests make whole programmes, for each of some hundred mutants.
    '!src/core/treatment/{limited-*,plan-levels,room-tone,solver}.ts',
    // Texts are read, not computed with.
    '!**/messages.ts',
  ],
  mutator: { excludedMutations: ['StringLiteral'] },
  // A value that is made once, as its file is loaded, would be made anew for every test of the house.
  ignoreStatic: true,
  ignorePatterns: ['.next', 'data', 'docs', 'e2e', 'test-results'],
  // A busy machine is no reason to count a mutant as found.
  timeoutMS: 20_000,
  concurrency: 2,
  tempDirName: '.stryker',
  reporters: ['clear-text', 'progress-append-only'],
  clearTextReporter: { logTests: false, reportTests: false },
};
