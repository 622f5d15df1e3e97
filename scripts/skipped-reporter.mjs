import { relative } from 'node:path';

/** Says at the end which suites were skipped and why, so that a missing browser or server is not taken for a pass; then counts. */
export default class SkippedReporter {
  onRunComplete(_contexts, { testResults, numPassedTests, numFailedTests, numPendingTests }) {
    for (const { testFilePath, testResults: tests } of testResults) {
      const skipped = tests.filter(({ status }) => status === 'pending');
      if (skipped.length > 0)
        console.log(
          `Skipped ${skipped.length} in ${relative(process.cwd(), testFilePath)}: ${skipped[0].ancestorTitles[0] ?? skipped[0].title}`,
        );
    }
    console.log(`Tests: ${numPassedTests} passed, ${numFailedTests} failed, ${numPendingTests} skipped`);
  }
}
