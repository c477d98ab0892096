const map = Object.fromEntries(
  ['kernels', 'pipeline', 'media'].map((name) => [`^@idle-bend/${name}$`, `<rootDir>/packages/${name}/src/index.ts`]),
);

/** Unit and server tests; the server's run against its build (see scripts/test.mjs). */
export default {
  testEnvironment: 'node',
  roots: ['<rootDir>/packages', '<rootDir>/apps'],
  testMatch: ['**/src/**/*.test.ts', '**/test/**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts'],
  setupFiles: ['<rootDir>/scripts/property-seed.mjs'],
  moduleNameMapper: {
    '^@idle-bend/core/([\\w-]+)$': '<rootDir>/packages/core/src/$1/index.ts',
    ...map,
    '^(\\.{1,2}/.*)\\.[jt]s$': '$1',
  },
  transform: {
    '^.+\\.ts$': '<rootDir>/scripts/jest-transform.mjs',
  },
  // Real ffmpeg and real servers on machines that may be slow and shared: this only ends what hangs.
  testTimeout: 400_000,
  maxWorkers: 2,
};
