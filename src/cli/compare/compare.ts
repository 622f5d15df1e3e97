import { compareIntakes, type Difference, type Shown } from '../../compare/index.ts';
import type { Verdict } from '../../core/basics/verdict.ts';
import { planOf } from '../../core/intake.ts';
import type { Json } from '../../core/plan/inspect.ts';
import { wordsIn } from '../../describe/words/index.ts';
import { conditionIn } from '../../describe/words/sentences.ts';
import type { Situation } from '../../made/index.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntakes } from '../basics/loading.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';
import { columns, counted, lookOf, wrapped } from '../basics/terminal.ts';
import { fieldsByColumn } from '../reading/columns.ts';
import { type Datum, placeOf } from '../reading/data.ts';
import { readData } from '../reading/read-data.ts';
import { checkLocale, type JudgingFlags, momentAt, settingsFor } from '../records/settings.ts';
import { versionOf } from './revision.ts';

export interface CompareFlags extends JudgingFlags {
  readonly intake?: string;
  readonly data?: readonly string[];
  readonly format: 'text' | 'json';
}

/** What differs between the intakes of one name. */
interface Compared {
  readonly name: string;
  /** Only one version has it. */
  readonly only?: 'old' | 'new';
  readonly differences: readonly Difference[];
  /** When a rule applied, and when it does now, in words. */
  readonly conditions?: (use: string) => { readonly before: string; readonly after: string };
  readonly judged?: Judged;
}

interface Judged {
  readonly count: number;
  readonly changed: readonly { readonly datum: Datum; readonly before: Verdict<unknown>; readonly after: Verdict<unknown> }[];
  readonly trials: ReadonlyMap<string, number>;
}

export async function compare(old: string, next: string, flags: CompareFlags, context: Context): Promise<Exit> {
  checkLocale(flags.locale);
  const before = versionOf(old, next);
  const after = versionOf(next, old);
  try {
    const compared = await comparedOf(
      await loadIntakes(before.path, flags.intake),
      await loadIntakes(after.path, flags.intake),
      flags,
      context,
    );
    await context.out(flags.format === 'json' ? asJson(compared) : asText(compared, context));
    return exitOf(compared);
  } finally {
    before.close();
    after.close();
  }
}

async function comparedOf(
  before: Map<string, LoadedIntake>,
  after: Map<string, LoadedIntake>,
  flags: CompareFlags,
  context: Context,
): Promise<Compared[]> {
  const byName = (intakes: Map<string, LoadedIntake>) => new Map([...intakes.values()].map((intake) => [intake.name, intake]));
  const [old, next] = [byName(before), byName(after)];
  const compared: Compared[] = [];
  for (const name of new Set([...old.keys(), ...next.keys()])) {
    const [was, is] = [old.get(name), next.get(name)];
    if (!was || !is) {
      compared.push({ name, only: was ? 'old' : 'new', differences: [] });
      continue;
    }
    const options = {
      locale: flags.locale,
      ...(flags.now !== undefined && { now: momentAt(flags.now) }),
      ...(flags.occasion !== undefined && { occasion: flags.occasion }),
    };
    const differences = await compareIntakes(was, is, options);
    const conditions = (use: string) => ({ before: conditionsIn(was, use, flags.locale), after: conditionsIn(is, use, flags.locale) });
    compared.push({ name, differences, conditions, ...(flags.data && { judged: await judgedBy(was, is, flags, context) }) });
  }
  return compared;
}

/** Judges the same submissions by both versions. */
async function judgedBy(before: LoadedIntake, after: LoadedIntake, flags: CompareFlags, context: Context): Promise<Judged> {
  const [old, next] = [await settingsFor(before, flags, context), await settingsFor(after, flags, context)];
  try {
    const now = old.options.now ?? new Date();
    const changed: Judged['changed'][number][] = [];
    const trials = new Map<string, number>();
    let count = 0;
    for (const path of flags.data ?? []) {
      const data: Datum[] = [];
      let isForm = false;
      const { pathOf, isField } = fieldsByColumn(after);
      const reading = readData(path, context.stdin, {
        pathOf,
        isField,
        begun: ({ format }) => (isForm = format === 'csv' || format === 'form'),
      });
      for await (const datum of reading) if ('submission' in datum) data.push(datum);
      const as = isForm ? 'form' : 'json';
      const submissions = data.map((datum) => ('submission' in datum ? datum.submission : undefined));
      const [was, is] = [
        before.judgeMany(submissions, { ...old.options, now, as } as never),
        after.judgeMany(submissions, { ...next.options, now, as } as never),
      ];
      for (const datum of data) {
        const [one, two] = [(await was.next()).value, (await is.next()).value] as { readonly verdict: Verdict<unknown> }[] as [
          { verdict: Verdict<unknown> },
          { verdict: Verdict<unknown> },
        ];
        count++;
        for (const { use, outcome } of two.verdict.trials ?? []) if (outcome === 'failed') trials.set(use, (trials.get(use) ?? 0) + 1);
        if (one.verdict.outcome !== two.verdict.outcome) changed.push({ datum, before: one.verdict, after: two.verdict });
      }
    }
    return { count, changed, trials };
  } finally {
    await old.close();
    await next.close();
  }
}

function exitOf(compared: readonly Compared[]): Exit {
  const all = compared.flatMap(({ differences }) => differences);
  const isBroken = compared.some(
    ({ only, judged }) =>
      only === 'old' || judged?.changed.some(({ before, after }) => before.outcome === 'accepted' && after.outcome !== 'accepted'),
  );
  if (isBroken || all.some(({ breaks }) => breaks)) return EXIT.rejected;
  return all.some(({ change }) => change === 'changed') ? EXIT.undecided : EXIT.accepted;
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

function asText(compared: readonly Compared[], context: Context): string {
  const look = lookOf(context.stdout);
  const { paint } = look;
  const lines: string[] = [];
  for (const { name, only, differences, conditions, judged } of compared) {
    if (only) lines.push(`${paint.bold(name)}: ${paint[only === 'old' ? 'red' : 'cyan'](only === 'old' ? 'gone' : 'new')}`);
    else if (differences.length === 0 && !judged) continue;
    else lines.push(paint.bold(name));
    for (const difference of differences) {
      const { change, sort, name: what, differs, breaks, allows } = difference;
      lines.push(`  ${paint[COLOURS[change]](change.padEnd(9))}  ${sort === 'intake' ? 'the intake itself' : `${sort} ${what}`}`);
      for (const { member, before, after } of differs.slice(0, 6)) {
        const said = member === 'when' ? conditions?.(what) : undefined;
        lines.push(paint.dim(wrapped(look, `${member}: ${said?.before ?? short(before)} → ${said?.after ?? short(after)}`, 13)));
      }
      if (breaks) lines.push(wrapped(look, `${paint.red('breaks senders')}: ${shownText(breaks, difference, 'after')}`, 13));
      if (allows) lines.push(wrapped(look, `${paint.green('allows')}: ${shownText(allows, difference, 'before')}`, 13));
      if (change === 'changed') lines.push(paint.dim(wrapped(look, 'no submission was found that the two judge differently', 13)));
    }
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

/** When a rule of an intake applies, in words. */
function conditionsIn(intake: LoadedIntake, use: string, locale: string): string {
  const words = wordsIn(locale);
  const conditions = planOf(intake).uses.find((each) => each.use === use)?.when ?? [];
  return conditions.length === 0 ? 'always' : conditions.map((condition) => conditionIn(condition, words, locale)).join(` ${words.and} `);
}

/** The submission as far as it has to do with the difference, and what was said. */
function shownText({ situation, before, after }: Shown, { name, sort, reads }: Difference, side: 'before' | 'after'): string {
  const verdict = side === 'after' ? after : before;
  const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
  const finding =
    findings.find(({ use, places }) => (sort === 'rule' ? use === name : places.some(({ field }) => field === name))) ?? findings[0];
  const values = reads.map((path) => `${path} ${short(valueAt(situation, path.split('.')))}`);
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

function asJson(compared: readonly Compared[]): string {
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
