/**
 * Unit and server tests, in threads of plain Node.js that keep what they have loaded from file to file. The
 * workspaces are read from their sources, not from a build.
 */
export default {
  runner: 'jest-light-runner',
  setupFiles: ['<rootDir>/scripts/testSetup.js'],
  modulePathIgnorePatterns: ['<rootDir>/.stryker-tmp/'],
  cacheDirectory: '<rootDir>/node_modules/.cache/jest',
  testMatch: ['<rootDir>/*/src/**/*.test.ts', '<rootDir>/scripts/*.test.ts'],
  // More than there are cores: much of their time is waiting for the database.
  maxWorkers: 3,
  testTimeout: 600_000,
};
