/** Mutants of the computation: each changes one place, and some test must fail (npm run mutants). */
const folders = ['rules', 'acts', 'compare'];
export default {
  mutate: folders.flatMap((folder) => [`core/src/${folder}/**/*.ts`, `!core/src/${folder}/**/*.test.ts`]),
  // Jest begins anew for every mutant, which takes longer than the tests.
  testRunner: 'in-process',
  plugins: ['./scripts/mutantRunner.js'],
  coverageAnalysis: 'perTest',
  ignorePatterns: ['/*', '!/core', '!/scripts', '!/package.json', 'dist'],
  concurrency: 2,
  timeoutMS: 2000,
  ignoreStatic: true,
  reporters: ['progress-append-only', 'clear-text', 'json'],
  jsonReporter: { fileName: 'test-results/mutants.json' },
  tempDirName: '.stryker-tmp',
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
};
