import { renderMessage } from '../messages/render.ts';
import type { Finding, Trial, Unsettled, Verdict } from '../verdict.ts';
import type { EntryKey } from './plan.ts';
import { type Failure, type Open, placeOf, type Run, type Tried } from './run.ts';
import { objectOf } from './value.ts';

/** Step 8 of a judgement: what was found becomes a verdict, and only now words. */
export function verdictOf(run: Run, locale: string | undefined): Verdict<unknown> {
  if (run.failures.length === 0 && run.unsettled.length === 0 && !run.trace && !run.tried) {
    return { outcome: 'accepted', value: objectOf(run.plan.fields, run.frame), warnings: [], unsettled: [] };
  }
  const errors: Failure[] = [];
  const warnings: Failure[] = [];
  for (const failure of run.failures) (failure.info.severity === 'error' ? errors : warnings).push(failure);
  const common = {
    unsettled: run.unsettled.map((open) => unsettledOf(open, locale)),
    ...(run.trace && { trace: run.trace }),
    ...(run.tried && { trials: run.tried.map((tried) => trialOf(tried, locale)) }),
  };
  if (errors.length > 0) {
    // Errors first when the cap leaves some out; then all that is listed in the order of the fields.
    const most = run.settings.report === 'firstOfAll' ? 1 : run.plan.mostFindings;
    const listed = [...inOrder(errors), ...inOrder(warnings)].slice(0, most);
    const more = run.failures.length > listed.length;
    return { outcome: 'rejected', findings: inOrder(listed).map((failure) => findingOf(failure, locale)), more, ...common };
  }
  const told = inOrder(warnings)
    .slice(0, run.plan.mostFindings)
    .map((failure) => findingOf(failure, locale));
  if (run.unsettled.some(({ info }) => info.severity === 'error')) return { outcome: 'undecided', warnings: told, ...common };
  return { outcome: 'accepted', value: objectOf(run.plan.fields, run.frame), warnings: told, ...common };
}

/** By field, then declaration, then entry. */
function inOrder(failures: readonly Failure[]): Failure[] {
  return failures.length < 2 ? [...failures] : [...failures].sort(compare);
}

function compare(a: Failure, b: Failure): number {
  const [first, second] = [a.spots[0], b.spots[0]];
  const byField = (first?.place.order ?? 0) - (second?.place.order ?? 0) || a.info.order - b.info.order;
  if (byField !== 0) return byField;
  const [left, right] = [first?.indexes ?? [], second?.indexes ?? []];
  for (let depth = 0; depth < left.length && depth < right.length; depth++) {
    const byEntry = compareEntries(left[depth] as EntryKey, right[depth] as EntryKey);
    if (byEntry !== 0) return byEntry;
  }
  return left.length - right.length;
}

function compareEntries(a: EntryKey, b: EntryKey): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return a < b ? -1 : a > b ? 1 : 0;
}

function trialOf({ info: { rule, use }, failure, open }: Tried, locale: string | undefined): Trial {
  if (failure) return { rule, use, outcome: 'failed', finding: findingOf(failure, locale) };
  return open ? { rule, use, outcome: 'unsettled', unsettled: unsettledOf(open, locale) } : { rule, use, outcome: 'held' };
}

function findingOf(failure: Failure, locale: string | undefined): Finding {
  const { info, spots, facts } = failure;
  return {
    rule: info.rule,
    use: info.use,
    severity: info.severity,
    places: spots.map((spot) => placeOf(spot, locale)),
    facts,
    message: renderMessage(failure, locale),
  };
}

function unsettledOf({ info, spots, why, cause }: Open, locale: string | undefined): Unsettled {
  const unsettled: Unsettled = {
    rule: info.rule,
    use: info.use,
    places: spots.map((spot) => placeOf(spot, locale)),
    severity: info.severity,
    why,
  };
  // Not enumerable, so that it reaches neither JSON nor a log of the whole verdict: drivers quote parameters.
  if (cause !== undefined) Object.defineProperty(unsettled, 'cause', { value: cause, enumerable: false });
  return unsettled;
}
