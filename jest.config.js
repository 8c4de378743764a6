/** Unit and server tests; the workspaces are read from their sources, not from a build. */
const swc = {
  jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true } },
  module: { type: 'commonjs' },
};
/** Packages that come as ES modules alone. */
const modules = 'openid-client|oauth4webapi|jose|@tus|srvx';
export default {
  testEnvironment: 'node',
  modulePathIgnorePatterns: ['<rootDir>/.stryker-tmp/'],
  cacheDirectory: '<rootDir>/node_modules/.cache/jest',
  testMatch: ['<rootDir>/*/src/**/*.test.ts', '<rootDir>/scripts/*.test.ts'],
  transform: { '\\.tsx?$': ['@swc/jest', swc], [`/(${modules})/.*\\.m?js$`]: ['@swc/jest', swc] },
  transformIgnorePatterns: [`/node_modules/(?!(${modules})/)`],
  moduleNameMapper: { '^@polychron/(core|contract|server|demo)$': '<rootDir>/$1/src/index.ts' },
  // More than there are cores: much of their time is waiting for the database.
  maxWorkers: 3,
  testTimeout: 600_000,
};
