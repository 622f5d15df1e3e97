import type { Verdict } from 'jestril';
import { amendLocally } from 'jestril';
import { expectedOfAmend, expectedOfJudge } from '../support/naive-judge.ts';
import { Random } from '../support/random.ts';
import { changeFor, storedFor, submissionFor } from '../support/random-data.ts';
import { buildIntake, describeIntake } from '../support/random-intake.ts';

// A few seconds here; by hand as long as wanted: JESTRIL_RANDOM=20000 npm test -- test/core/random.test.ts
const INTAKES = Number(process.env.JESTRIL_RANDOM ?? 400);
const SEED = Number(process.env.JESTRIL_SEED ?? 1);

/** What was found, as the naive reading tells it. */
function found(verdict: Verdict<unknown>): string[] {
  const named = (rule: string, use: string) => (rule.startsWith('test/') || rule === 'at-least-one-of' ? use : rule);
  return verdict.outcome === 'rejected'
    ? [
        ...new Set(
          verdict.findings.map(({ rule, use, places }) => [named(rule, use), ...new Set(places.map(({ pointer }) => pointer))].join(' ')),
        ),
      ].sort()
    : [];
}

function eachIntake(run: (random: Random, seed: number) => void): void {
  for (let seed = SEED; seed < SEED + INTAKES; seed++) run(new Random(seed), seed);
}

test('random submissions: what a naive reading of the rules finds, and nothing else', () => {
  let accepted = 0;
  eachIntake((random, seed) => {
    const description = describeIntake(random);
    const form = buildIntake(description, { mostFindings: 1000 });
    for (let each = 0; each < 6; each++) {
      const submission = submissionFor(random, description.fields, random.pick([0, 0.1, 0.4]));
      const verdict = form.judgeLocally(submission);
      const expected = expectedOfJudge(description, submission);
      const about = { seed, description, submission };
      expect({ about, findings: found(verdict) }).toEqual({ about, findings: expected.findings });
      expect(verdict.outcome).toBe(expected.findings.length > 0 ? 'rejected' : 'accepted');
      if (verdict.outcome === 'accepted') accepted++;
      for (const report of ['firstOfEach', 'firstOfAll'] as const)
        expect({ about, outcome: form.judgeLocally(submission, { report }).outcome }).toEqual({ about, outcome: verdict.outcome });
    }
  });
  expect(accepted).toBeGreaterThan(INTAKES);
});

test('random changes, patches and whole records: what the changed record fails, less what reads nothing new', () => {
  const outcomes = { accepted: 0, rejected: 0, undecided: 0 };
  eachIntake((random, seed) => {
    const description = describeIntake(random);
    const form = buildIntake(description, { mostFindings: 1000 });
    for (let each = 0; each < 6; each++) {
      const stored = storedFor(random, description.fields);
      const change = changeFor(random, description.fields, stored);
      const whole = random.below(3) === 0;
      const verdict = amendLocally(form as never, stored as never, change, { whole });
      const expected = expectedOfAmend(description, stored, change, whole);
      const about = { seed, description, stored, change, whole };
      const outcome = expected.findings.length > 0 ? 'rejected' : expected.isUndecided ? 'undecided' : 'accepted';
      expect({ about, findings: found(verdict), outcome: verdict.outcome }).toEqual({ about, findings: expected.findings, outcome });
      outcomes[verdict.outcome]++;
    }
  });
  expect(Math.min(...Object.values(outcomes))).toBeGreaterThan(INTAKES / 10);
});
