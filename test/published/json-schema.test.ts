import { intakesOf } from 'jestril/published';
import { accepts } from '../support/json-schema.ts';
import { Random } from '../support/random.ts';
import { schemaFor, valueFor } from '../support/random-schema.ts';

// What a schema accepts the intake read from it accepts, and nothing else. By hand:
// JESTRIL_RANDOM=20000 npm test -- test/published/json-schema.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 300);

test('an intake read from a schema decides as the schema does', () => {
  const random = new Random(RUNS);
  let read = 0;
  for (let run = 0; run < RUNS; run++) {
    const schema = schemaFor(random);
    const published = intakesOf({ title: 'made', ...schema });
    // A generator makes what contradicts itself, too.
    if (published.refused.length > 0) continue;
    read++;
    const made = published.intake('made');
    for (let tried = 0; tried < 20; tried++) {
      const submission = valueFor(schema, random);
      const verdict = made.judgeLocally(submission, {} as never);
      const isAccepted = accepts(schema, submission);
      if ((verdict.outcome === 'accepted') !== isAccepted)
        throw new Error(
          `The schema ${isAccepted ? 'accepts' : 'rejects'}, and the intake says ${verdict.outcome}: ${JSON.stringify(verdict.outcome === 'rejected' ? verdict.findings : [])}\n${JSON.stringify(submission)}\n${JSON.stringify(schema)}`,
        );
    }
  }
  expect(read).toBeGreaterThan(RUNS / 2);
});

test.each([
  { type: 'integer', enum: [1, 2, 5], exclusiveMinimum: 2 },
  { type: 'integer', enum: [1, 2, 5], exclusiveMaximum: 2 },
  { type: 'number', enum: [0.5, 2.5, 4], minimum: 2.5 },
  { type: 'number', enum: [0.5, 2.5, 4], maximum: 2.5 },
])('bounds beside listed numbers: %j', (n) => {
  const schema = { type: 'object', required: ['n'], properties: { n } };
  const published = intakesOf({ title: 'made', ...schema });
  expect(published.refused).toEqual([]);
  const made = published.intake('made');
  for (const value of n.enum)
    expect([value, made.judgeLocally({ n: value }).outcome === 'accepted']).toEqual([value, accepts(schema as never, { n: value })]);
});
