import { casesOf, gapsOf, nameOf, type Subject } from './prove.ts';

/** What the helper needs of a test runner; Jest has these as globals. */
interface Runner {
  describe(name: string, body: () => void): void;
  test(name: string, body: () => Promise<void>): void;
}

/**
 * Turns what can be proved into a table of named tests, and its gaps into one more.
 *
 * @param gapsAllowed gaps that are known; others fail the last test
 */
export function describeProof(subject: Subject, { gapsAllowed = [] }: { readonly gapsAllowed?: readonly string[] } = {}): void {
  const { describe, test } = globalThis as unknown as Runner;
  describe(nameOf(subject), () => {
    for (const { name, run } of casesOf(subject)) {
      test(name, async () => {
        const problem = await run();
        if (problem !== undefined) throw new Error(problem);
      });
    }
    test('leaves no gap', async () => {
      const gaps = (await gapsOf(subject)).filter((gap) => !gapsAllowed.includes(gap));
      if (gaps.length > 0) throw new Error(gaps.join('\n'));
    });
  });
}
