import { expectedOfAmend } from './naive-judge.ts';
import { Random } from './random.ts';
import { changeFor, storedFor } from './random-data.ts';
import { buildIntake, describeIntake } from './random-intake.ts';
const from = Number(process.argv[2] ?? 1),
  n = Number(process.argv[3] ?? 400),
  show = Number(process.argv[4] ?? 3);
let shown = 0,
  bad = 0,
  total = 0;
const found = (verdict: any) =>
  verdict.outcome === 'rejected'
    ? [
        ...new Set(
          verdict.findings.map(({ rule, use, places }: any) =>
            [
              rule.startsWith('test/') || rule === 'at-least-one-of' ? use : rule,
              ...new Set(places.map(({ pointer }: any) => pointer)),
            ].join(' '),
          ),
        ),
      ].sort()
    : [];
for (let seed = from; seed < from + n; seed++) {
  const random = new Random(seed);
  const description = describeIntake(random);
  const form = buildIntake(description, { mostFindings: 1000 });
  for (let each = 0; each < 6; each++) {
    const stored = storedFor(random, description.fields);
    const change = changeFor(random, description.fields, stored);
    total++;
    let got: any, want: any;
    try {
      const verdict: any = form.amendLocally(stored as never, change);
      const expected = expectedOfAmend(description, stored, change);
      got = JSON.stringify([found(verdict), verdict.outcome]);
      want = JSON.stringify([
        expected.findings,
        expected.findings.length > 0 ? 'rejected' : expected.isUndecided ? 'undecided' : 'accepted',
      ]);
      if (got !== want) {
        bad++;
        if (shown++ < show)
          console.log(
            `--- seed ${seed}\n${JSON.stringify(description.fields)}\n uses ${JSON.stringify(description.uses)}\n stored ${JSON.stringify(stored)}\n change ${JSON.stringify(change)}\n got ${got}\n want ${want}\n unsettled ${JSON.stringify(verdict.unsettled)} ${verdict.unsettled?.[0]?.cause}`,
          );
      }
    } catch (e) {
      bad++;
      if (shown++ < show) {
        console.log('THROW', seed, e, JSON.stringify(description.fields), JSON.stringify(stored), JSON.stringify(change));
      }
    }
  }
}
console.log({ bad, total });
