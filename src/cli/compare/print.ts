import type { Difference, Shown } from '../../compare/index.ts';
import type { Verdict } from '../../core/basics/verdict.ts';
import type { Json } from '../../core/plan/inspect.ts';
import type { Situation } from '../../made/index.ts';
import type { Context } from '../basics/context.ts';
import { columns, counted, lookOf, wrapped } from '../basics/terminal.ts';
import { type Datum, placeOf } from '../reading/data.ts';

/** What differs between the intakes of one name. */
export interface Compared {
  readonly name: string;
  /** Only one version has it. */
  readonly only?: 'old' | 'new';
  readonly differences: readonly Difference[];
  /** When a rule applied, and when it does now, in words. */
  readonly conditions?: (use: string) => { readonly before: string; readonly after: string };
  readonly judged?: Judged;
}

export interface Judged {
  readonly count: number;
  readonly changed: readonly { readonly datum: Datum; readonly before: Verdict<unknown>; readonly after: Verdict<unknown> }[];
  readonly trials: ReadonlyMap<string, number>;
}

const COLOURS = {
  new: 'cyan',
  gone: 'magenta',
  tightened: 'red',
  loosened: 'green',
  moved: 'red',
  changed: 'yellow',
  reworded: 'dim',
} as const;

export function asText(compared: readonly Compared[], context: Context): string {
  const look = lookOf(context.stdout);
  const { paint } = look;
  const lines: string[] = [];
  for (const { name, only, differences, conditions, judged } of compared) {
    if (only) lines.push(`${paint.bold(name)}: ${paint[only === 'old' ? 'red' : 'cyan'](only === 'old' ? 'gone' : 'new')}`);
    else if (differences.length === 0 && !judged) continue;
    else lines.push(paint.bold(name));
    const added = new Map<string, string[]>();
    for (const difference of differences) {
      const locales = onlyAdded(difference);
      if (locales !== undefined) {
        added.set(locales, [...(added.get(locales) ?? []), difference.name]);
        continue;
      }
      const { change, sort, name: what, differs, breaks, allows } = difference;
      lines.push(`  ${paint[COLOURS[change]](change.padEnd(9))}  ${sort === 'intake' ? 'the intake itself' : `${sort} ${what}`}`);
      for (const { member, before, after } of differs.slice(0, 6)) {
        const said = member === 'when' ? conditions?.(what) : member === 'says' ? saidIn(before, after) : undefined;
        lines.push(paint.dim(wrapped(look, `${member}: ${said?.before ?? short(before)} → ${said?.after ?? short(after)}`, 13)));
      }
      if (breaks) lines.push(wrapped(look, `${paint.red('breaks senders')}: ${shownText(breaks, difference, 'after')}`, 13));
      if (allows) lines.push(wrapped(look, `${paint.green('allows')}: ${shownText(allows, difference, 'before')}`, 13));
      if (change === 'changed') lines.push(paint.dim(wrapped(look, 'no submission was found that the two judge differently', 13)));
    }
    for (const [locales, names] of added)
      lines.push(wrapped(look, `${paint.dim('reworded ')}  now also in ${locales}: ${names.join(', ')}`, 2, 13));
    if (judged) {
      lines.push(
        `  ${counted(judged.count, 'submission')} judged by both: ${judged.changed.length === 0 ? 'no verdict changes' : `${counted(judged.changed.length, 'verdict')} change${judged.changed.length === 1 ? 's' : ''}`}`,
      );
      for (const { datum, before, after } of judged.changed.slice(0, 20)) {
        const why = after.outcome === 'rejected' ? after.findings : before.outcome === 'rejected' ? before.findings : [];
        lines.push(
          wrapped(look, `${placeOf(datum.origin)}: ${before.outcome} → ${after.outcome}  ${why.map(({ use }) => use).join(', ')}`, 4),
        );
      }
      if (judged.changed.length > 20) lines.push(`    and ${judged.changed.length - 20} more`);
      if (judged.trials.size > 0)
        lines.push(
          '  On trial, without effect:',
          columns(
            look,
            [...judged.trials].map(([use, failed]) => [use, `would have failed ${counted(failed, 'time')}`]),
            4,
          ),
        );
    }
  }
  const all = compared.flatMap(({ differences }) => differences);
  const broken = all.filter(({ breaks }) => breaks).length;
  const gone = compared.filter(({ only }) => only === 'old').length;
  const unknown = all.filter(({ change }) => change === 'changed').length;
  const summary =
    all.length + compared.filter(({ only }) => only).length === 0
      ? 'Nothing differs.'
      : `${counted(all.length, 'difference')}: ${broken + gone} break${broken + gone === 1 ? 's' : ''} those who send${unknown > 0 ? `, ${unknown} of unknown effect` : ''}.`;
  return `${[...lines, ...(lines.length > 0 ? [''] : []), summary].join('\n')}\n`;
}

/** What is said, by language; a text alone is in every one. */
function textsOf(said: Json | undefined): { readonly [locale: string]: Json } {
  if (Array.isArray(said)) return Object.assign({}, ...said.map(textsOf));
  return typeof said === 'object' && said !== null ? (said as { readonly [locale: string]: Json }) : { en: said ?? '' };
}

/** The languages in which something is said now, and was not, where nothing else has changed. */
function onlyAdded({ change, differs: [only, ...others] }: Difference): string | undefined {
  if (change !== 'reworded' || only?.member !== 'says' || others.length > 0) return undefined;
  const [before, after] = [textsOf(only.before), textsOf(only.after)];
  const isKept = Object.entries(before).every(([locale, text]) => JSON.stringify(after[locale]) === JSON.stringify(text));
  const added = Object.keys(after).filter((locale) => !Object.hasOwn(before, locale));
  return isKept && added.length > 0 ? added.join(', ') : undefined;
}

/** What is said otherwise, in the languages in which it is. */
function saidIn(was: Json | undefined, is: Json | undefined): { readonly before: string; readonly after: string } {
  const [before, after] = [textsOf(was), textsOf(is)];
  const locales = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (locale) => JSON.stringify(before[locale]) !== JSON.stringify(after[locale]),
  );
  const told = (texts: { readonly [locale: string]: Json }) =>
    locales.map((locale) => `${locales.length > 1 || locale !== 'en' ? `${locale} ` : ''}${short(texts[locale])}`).join(', ');
  return { before: told(before), after: told(after) };
}

/** The submission as far as it has to do with the difference, and what was said. */
function shownText({ situation, before, after }: Shown, { name, sort, reads }: Difference, side: 'before' | 'after'): string {
  const verdict = side === 'after' ? after : before;
  const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
  const finding =
    findings.find(({ use, places }) => (sort === 'rule' ? use === name : places.some(({ field }) => field === name))) ?? findings[0];
  const values = reads.map((path) => {
    const value = valueAt(situation, path.split('.'));
    return value === undefined ? `no ${path}` : `${path} ${short(value)}`;
  });
  return `${values.join(', ')}${side === 'after' ? ', which was accepted' : ', which is accepted now'}: ${finding?.message ?? ''}`;
}

/** What stands at a declared path; of a list in its entries. */
function valueAt({ submission, given }: Situation, path: readonly string[]): Json | undefined {
  const inside = (value: unknown, [first, ...rest]: readonly string[]): unknown => {
    if (first === undefined || typeof value !== 'object' || value === null) return first === undefined ? value : undefined;
    return first === '*'
      ? Object.values(value).map((entry) => inside(entry, rest))
      : inside((value as { readonly [key: string]: unknown })[first], rest);
  };
  return (inside(submission, path) ?? inside(given, path)) as Json | undefined;
}

function short(value: Json | undefined): string {
  if (typeof value === 'string' && value.length > 60) return `of ${value.length} characters`;
  if (
    typeof value === 'object' &&
    value !== null &&
    !Array.isArray(value) &&
    Object.values(value).every((each) => typeof each !== 'object')
  )
    return Object.entries(value)
      .map(([name, each]) => `${name} ${JSON.stringify(each)}`)
      .join(', ');
  const text = value === undefined ? 'nothing' : JSON.stringify(value);
  return text.length > 90 ? `${text.slice(0, 89)}…` : text;
}

export function asJson(compared: readonly Compared[]): string {
  const shown = (each: Shown | undefined) =>
    each && { submission: each.situation.submission, given: each.situation.given, before: told(each.before), after: told(each.after) };
  const told = (verdict: Verdict<unknown>) => ({
    outcome: verdict.outcome,
    ...(verdict.outcome === 'rejected' && { findings: verdict.findings }),
  });
  const intakes = compared.map(({ name, only, differences, judged }) => ({
    name,
    ...(only && { only }),
    differences: differences.map(({ breaks, allows, ...rest }) => ({
      ...rest,
      ...(breaks && { breaks: shown(breaks) }),
      ...(allows && { allows: shown(allows) }),
    })),
    ...(judged && {
      judged: {
        count: judged.count,
        changed: judged.changed.map(({ datum, before, after }) => ({ ...datum.origin, before: told(before), after: told(after) })),
        trials: Object.fromEntries(judged.trials),
      },
    }),
  }));
  return `${JSON.stringify({ version: 1, intakes }, null, 2)}\n`;
}
