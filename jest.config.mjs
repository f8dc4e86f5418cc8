import { tmpdir } from 'node:os';
import { join } from 'node:path';

// What tests seal is sealed with a key of their own, not with that of whoever runs them.
process.env.OPSIMETER_KEY_FILE ??= join(tmpdir(), 'opsimeter-tests', 'key');

/** Unit tests lie beside their source; conformance and whole-process tests lie in tests/. */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/src', '<rootDir>/tests'],
  testMatch: ['**/*.test.ts'],
  transform: {
    '^.+(\\.ts|/drizzle-orm/entity\\.js)$': [
      '<rootDir>/tests/transform.mjs',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'es6' } },
    ],
  },
  // Of packages only what is asked of every value of every statement: globals are slow to look up there too.
  transformIgnorePatterns: ['/node_modules/(?!drizzle-orm/entity\\.js$)'],
  extensionsToTreatAsEsm: ['.ts'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1', '^server-only$': '<rootDir>/node_modules/server-only/empty.js' },
  // Asked for by hand, `jest src --coverage`: counting every line slows what runs once a frame.
  collectCoverageFrom: ['src/core/**/*.ts'],
  coverageReporters: ['text'],
  coverageProvider: 'v8',
  // Of a test that hangs. The longest takes a fifth of it alone; a machine may be busy with more.
  testTimeout: 300_000,
  // One more than processors, of which two are usual: much of what is tested sounds, or is killed, in real time.
  maxWorkers: 3,
};
