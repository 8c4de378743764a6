// Adds up what the two test runners report and closes with one line. A runner that reported nothing is a
// failure.
import { readFileSync } from 'node:fs';

let passed = 0;
let failed = 0;
for (const file of process.argv.slice(2)) {
  let report;
  try {
    report = JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    console.error(`no report: ${error.message}`);
    failed += 1;
    continue;
  }
  if (report.stats) {
    passed += report.stats.expected;
    failed += report.stats.unexpected + report.stats.flaky + report.stats.skipped + report.errors.length;
  } else {
    passed += report.numPassedTests;
    failed += report.numFailedTests + report.numPendingTests + report.numRuntimeErrorTestSuites;
  }
}
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
