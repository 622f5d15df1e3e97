import { relative } from 'node:path';

/** Says at the end which suites were skipped and why, so that a missing browser or server is not taken for a pass; then counts. */
export default class SkippedReporter {
  onRunComplete(_contexts, { testResults, numPassedTests, numFailedTests, numPendingTests }) {
    for (const { testFilePath, testResults: tests } of testResults) {
      const skipped = tests.filter(({ status }) => status === 'pending');
      for (const title of new Set(skipped.map((test) => test.ancestorTitles[0] ?? test.title))) {
        const count = skipped.filter((test) => (test.ancestorTitles[0] ?? test.title) === title).length;
        console.log(`Skipped ${count} in ${relative(process.cwd(), testFilePath)}: ${title}`);
      }
    }
    console.log(`Tests: ${numPassedTests} passed, ${numFailedTests} failed, ${numPendingTests} skipped`);
  }
}
