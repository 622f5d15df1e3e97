import { shorten, WITHHELD } from '../basics/text.ts';
import type { Finding, Trial, Unsettled, Verdict } from '../basics/verdict.ts';
import { renderMessage, renderWords } from '../messages/render.ts';
import type { EntryKey } from '../plan/plan.ts';
import type { Failure, Open, Spot, Tried } from './failures.ts';
import { placeOf } from './places.ts';
import type { Run } from './run.ts';
import { objectOf } from './value.ts';

/** Step 8 of a judgement: what was found becomes a verdict, and only now words. */
export function verdictOf(run: Run, locale: string | undefined): Verdict<unknown> {
  if (run.failures.length === 0 && run.unsettled.length === 0 && !run.trace && !run.tried) {
    return { outcome: 'accepted', value: acceptedValue(run), warnings: [], unsettled: [] };
  }
  if (run.hasErrors && isPlain(run)) {
    const findings = inOrder(run.failures).map((failure) => findingOf(failure, locale));
    return { outcome: 'rejected', findings, more: false, unsettled: [] };
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
  return { outcome: 'accepted', value: acceptedValue(run), warnings: told, ...common };
}

function acceptedValue({ code, plan, frame }: Run): object {
  return code ? code.value(frame) : objectOf(plan.fields, frame);
}

/** Whether all that was found is listed, and nothing else has to be told. */
function isPlain({ plan, settings, failures, unsettled, trace, tried }: Run): boolean {
  return unsettled.length === 0 && !trace && !tried && failures.length <= plan.mostFindings && settings.report !== 'firstOfAll';
}

/** By field, then declaration, then entry. */
function inOrder(failures: readonly Failure[]): readonly Failure[] {
  for (let at = 1; at < failures.length; at++)
    if (compare(failures[at - 1] as Failure, failures[at] as Failure) > 0) return [...failures].sort(compare);
  return failures;
}

function compare(a: Failure, b: Failure): number {
  const first = a.spots[0];
  const second = b.spots[0];
  const byField = (first?.place.order ?? 0) - (second?.place.order ?? 0) || a.info.order - b.info.order;
  if (byField !== 0) return byField;
  const left = first?.indexes ?? [];
  const right = second?.indexes ?? [];
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

/** Locales may come from requests. */
const MOST_LOCALES = 50;

/** The finding of a failure; of one that is kept, the same for every verdict in a language, and frozen. */
function findingOf(failure: Failure, locale: string | undefined): Finding {
  const { told } = failure;
  if (!told) return makeFinding(failure, locale);
  const known = told.get(locale);
  if (known) return known;
  const finding = makeFinding(failure, locale);
  for (const place of finding.places) Object.freeze(place);
  Object.freeze(finding.places);
  if (told.size >= MOST_LOCALES) told.clear();
  told.set(locale, Object.freeze(finding));
  return finding;
}

function makeFinding(failure: Failure, locale: string | undefined): Finding {
  const { info, spots, facts } = failure;
  return {
    rule: info.rule,
    use: info.use,
    severity: info.severity,
    places: spots.map((spot) => placeOf(spot, locale)),
    facts,
    message: `${entriesOf(spots[0], locale)}${renderMessage(failure, locale)}`,
  };
}

/** Which entries a finding is about, in the words of their lists: "Helper 1: ". */
function entriesOf(spot: Spot | undefined, locale: string | undefined): string {
  const { entryLabels, secretNames } = spot?.place ?? {};
  if (!spot || !entryLabels) return '';
  const named = spot.indexes.flatMap((key, depth) => {
    const words = entryLabels[depth];
    if (words === undefined) return [];
    const isSecret = typeof key === 'string' && secretNames !== 0 && depth >= (secretNames as number) - 1;
    return [renderWords(words, typeof key === 'number' ? { number: key + 1 } : { name: isSecret ? WITHHELD : shorten(key) }, locale)];
  });
  return named.length === 0 ? '' : `${named.join(', ')}: `;
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
