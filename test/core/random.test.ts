import { inspect } from 'node:util';
import type { Verdict } from 'jestril';
import { amendLocally } from 'jestril';
import { expectedOfAmend, expectedOfJudge } from '../support/naive-judge.ts';
import { Random } from '../support/random.ts';
import { asSent, changeFor, storedFor, submissionFor } from '../support/random-data.ts';
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

function acceptedOf(verdict: Verdict<unknown>): unknown {
  return verdict.outcome === 'accepted' ? verdict.value : undefined;
}

function eachIntake(run: (random: Random, seed: number) => void, count = INTAKES): void {
  for (let seed = SEED; seed < SEED + count; seed++) run(new Random(seed), seed);
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

test('random submissions as forms: the verdict of the same as JSON, but for what a form cannot send', () => {
  eachIntake((random, seed) => {
    const { fields, uses } = describeIntake(random);
    const form = buildIntake({ fields, uses }, { mostFindings: 1000 });
    const submission = submissionFor(random, fields, 0);
    const json = asSent(fields, submission, (value) => value);
    const sent = asSent(fields, submission, String);
    const about = { seed, fields, uses, json };
    const [asJson, asForm] = [form.judgeLocally(json), form.judgeLocally(sent, { as: 'form' })];
    expect({ about, findings: found(asForm), value: acceptedOf(asForm) }).toEqual({
      about,
      findings: found(asJson),
      value: acceptedOf(asJson),
    });
  });
});

test('random submissions and changes with secrets: they stand in the value alone', () => {
  const marked = (data: object) => JSON.parse(JSON.stringify(data), (_, value) => (/^[abc]+$/.test(value) ? `§${value}` : value));
  let told = 0;
  eachIntake((random, seed) => {
    const description = describeIntake(random);
    const form = buildIntake(description, { mostFindings: 1000 }, true);
    const submission = marked(submissionFor(random, description.fields, 0.4));
    const stored = marked(storedFor(random, description.fields));
    const change = marked(changeFor(random, description.fields, stored));
    for (const verdict of [
      form.judgeLocally(submission, { explain: true }),
      form.judgeLocally(submission, { as: 'form', explain: true }),
      amendLocally(form as never, stored as never, change, { explain: true }),
    ]) {
      const { value: _, ...rest } = verdict as { value?: unknown };
      expect({ seed, submission, stored, change, text: inspect(rest, { depth: null }).match(/.*§.*/) }).toMatchObject({
        text: null,
      });
      if (inspect(verdict, { depth: null }).includes('§')) told++;
    }
  }, INTAKES / 4);
  expect(told).toBeGreaterThan(INTAKES / 12);
});
