/** Says at the end which suites were skipped, so that a missing browser or server is not mistaken for a pass. */
export default class SkippedReporter {
  onRunComplete(_contexts, { testResults }) {
    for (const { testFilePath, testResults: tests } of testResults) {
      const skipped = tests.filter(({ status }) => status === 'pending');
      if (skipped.length > 0 && skipped.length === tests.length)
        console.log(`Skipped: ${testFilePath.split('/test/').pop()} (${skipped[0].ancestorTitles[0]})`);
    }
  }
}
