import type { Finding, Place, TracedCondition, Unsettled, Verdict, Why } from '../../core/basics/verdict.ts';
import type { Summary } from '../../screening/summary.ts';
import { columns, counted, type Look, wrapped } from '../basics/terminal.ts';
import { type Datum, placeOf } from '../reading/data.ts';
import { type Asked, answerText, type Explained } from './explain.ts';

/** What became of one piece of data. */
export interface Told {
  readonly datum: Datum;
  /** None of what is unreadable. */
  readonly verdict?: Verdict<unknown>;
  readonly explained?: readonly Explained[];
}

/** How a run tells what it found. */
export interface Printer {
  told(told: Told): string;
  end(summary: Summary): string;
}

const OUTCOMES = { accepted: 'green', rejected: 'red', undecided: 'yellow' } as const;
const STATES = { held: 'green', failed: 'red', skipped: 'dim', unsettled: 'yellow' } as const;

/** For people. */
export function asText(look: Look): Printer {
  const { paint } = look;
  return {
    told({ datum, verdict, explained }) {
      const place = placeOf(datum.origin);
      if (!verdict) return `${place}: ${paint.red('unreadable')}\n${wrapped(look, datum.unreadable ?? '', 2)}\n`;
      const lines = [`${place}: ${paint[OUTCOMES[verdict.outcome]](verdict.outcome)}`];
      for (const finding of findingsOf(verdict)) lines.push(...findingLines(look, finding));
      if (verdict.outcome === 'rejected' && verdict.more) lines.push('  and more findings');
      for (const unsettled of verdict.unsettled) lines.push(...unsettledLines(look, unsettled));
      if (explained) lines.push(...explainedLines(look, explained));
      return `${lines.join('\n')}\n`;
    },
    end: (summary) => summaryText(look, summary),
  };
}

function summaryText(look: Look, { counts, found, tried, open }: Summary): string {
  const { accepted, rejected, undecided, unreadable } = counts;
  const { paint } = look;
  const total = accepted + rejected + undecided;
  const parts: string[] = [];
  // Of a few submissions each was told; the table is for many.
  if (total > 2 && found.length > 0) {
    // Of one file its name says nothing.
    const isOne = new Set(found.map(({ example }) => example.origin.file)).size === 1;
    const rows = found
      .slice(0, 20)
      .map(({ count, use, severity, field, example }) => [
        count.toLocaleString('en'),
        severity === 'warning' ? `${use} (warning)` : use,
        field || '(the whole submission)',
        `first in ${isOne && example.origin.line !== undefined ? `line ${example.origin.line}` : placeOf(example.origin)}`,
      ]);
    parts.push(`\n${paint.bold('Findings by rule and field')}\n${columns(look, rows)}\n`);
    if (found.length > rows.length) parts.push(`  and ${found.length - rows.length} more rules and fields\n`);
  }
  if (total > 2 && open.length > 0)
    parts.push(
      `\n${paint.bold('Not decided')}\n${columns(
        look,
        open.map(({ count, use, why }) => [count.toLocaleString('en'), use, REASONS[why as Why]]),
      )}\n`,
    );
  if (tried.length > 0) {
    const rows = tried.map(({ use, held, failed, unsettled, example }) => [
      use,
      `would have held ${counted(held, 'time')}, failed ${counted(failed, 'time')}${unsettled > 0 ? `, and was not decided ${counted(unsettled, 'time')}` : ''}${example ? `; first in ${placeOf(example)}` : ''}`,
    ]);
    parts.push(`\n${paint.bold('On trial, without effect')}\n${columns(look, rows)}\n`);
  }
  const odd = unreadable === 0 ? '' : `, ${unreadable.toLocaleString('en')} unreadable`;
  const number = (count: number) => count.toLocaleString('en');
  parts.push(
    `\n${counted(total, 'submission')}: ${number(accepted)} accepted, ${number(rejected)} rejected, ${number(undecided)} undecided${odd}.\n`,
  );
  return parts.join('');
}

/** The layout of the JSON output; another number says that it has changed. */
const VERSION = 1;

/** For programs: one JSON object a submission, without its value, and one with the summary at the end. */
export const asJson: Printer = {
  told({ datum: { origin, unreadable }, verdict, explained }) {
    if (!verdict) return line({ ...origin, outcome: 'unreadable', problem: unreadable });
    const { outcome, unsettled, trials } = verdict;
    const found = outcome === 'rejected' ? { findings: verdict.findings, more: verdict.more } : { warnings: verdict.warnings };
    return line({
      ...origin,
      outcome,
      ...found,
      unsettled,
      ...(trials && { trials }),
      ...(explained && { trace: explained.map(withoutSecrets) }),
    });
  },
  end({ counts, found, tried, open }) {
    return line({ summary: { ...counts, found, unsettled: open, trials: tried } });
  },
};

function line(told: object): string {
  return `${JSON.stringify({ version: VERSION, ...told })}\n`;
}

function withoutSecrets({ read, ...rest }: Explained): object {
  return { ...rest, read: read.map(({ field, value, isSecret }) => (isSecret ? { field, isSecret } : { field, value })) };
}

function findingsOf(verdict: Verdict<unknown>): readonly Finding[] {
  return verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
}

function findingLines(look: Look, { severity, message, places, use }: Finding): string[] {
  const warning = severity === 'warning' ? look.paint.yellow('Warning: ') : '';
  return [wrapped(look, `${warning}${message}`, 2), look.paint.dim(wrapped(look, `${pointersOf(places)}  ${use}`, 6))];
}

export const REASONS: { readonly [why in Why]: string } = {
  unavailable: 'the records could not be asked',
  'timed-out': 'no answer came in time',
  aborted: 'it was called off',
  fault: 'the rule itself failed',
  'not-asked': 'there were no records to ask; give them with --records',
  'stored-unsound': 'a stored record is not as it should be',
  'too-many-rows': 'more rows match than a rule would see',
  'row-undecided': 'an earlier row has the same, and is not decided itself',
  contended: 'others were storing at the same time, again and again',
};

function unsettledLines(look: Look, { why, cause, places, use }: Unsettled): string[] {
  // The cause stays out of the JSON, and is told to the person at the terminal.
  const told = cause instanceof Error && why !== 'not-asked' ? ` (${cause.message})` : '';
  return [wrapped(look, `Not decided: ${REASONS[why]}${told}.`, 2), look.paint.dim(wrapped(look, `${pointersOf(places)}  ${use}`, 6))];
}

function pointersOf(places: readonly Place[]): string {
  return places.map(({ pointer }) => pointer || '(the whole submission)').join(' ');
}

const STEPS = { value: 'single values', between: 'between fields', record: 'against records', outside: 'outside checks' } as const;

/** A tree: the steps, in them the rules, in those what was read and asked. */
function explainedLines(look: Look, explained: readonly Explained[]): string[] {
  const { paint } = look;
  const lines: string[] = [];
  for (const [step, title] of Object.entries(STEPS)) {
    const inStep = explained.filter((each) => each.step === step);
    if (inStep.length === 0) continue;
    lines.push(`  ${paint.bold(title)}`);
    for (const [at, each] of inStep.entries()) {
      const isLast = at === inStep.length - 1;
      const reason = [each.why, each.because?.join(' ')].filter(Boolean).join(': ');
      const state = paint[STATES[each.outcome]](each.outcome.padEnd(9));
      lines.push(wrapped(look, `${isLast ? '└' : '├'} ${state} ${each.use}${reason && paint.dim(`  ${reason}`)}`, 2, 16));
      const stem = `${isLast ? ' ' : '│'}           `;
      if (each.read.length > 0) lines.push(wrapped(look, `${stem}${paint.dim('read')}  ${each.read.map(readText).join(', ')}`, 2, 20));
      for (const condition of each.conditions ?? []) lines.push(...conditionLines(look, condition, stem));
      for (const asked of each.asked) lines.push(wrapped(look, `${stem}${paint.dim('asked')} ${askedText(asked)}`, 2, 20));
    }
  }
  return lines;
}

function conditionLines(look: Look, { sort, id, outcome, because = [], parts = [] }: TracedCondition, stem: string): string[] {
  const what =
    sort === 'condition'
      ? (id as string)
      : { all: 'all of', any: 'any of', not: 'not', occasion: 'the occasion', calendar: 'the day' }[sort];
  const came = { held: 'holds', failed: 'does not hold', skipped: 'is skipped', unsettled: 'is not decided' }[outcome];
  const told = `${look.paint.dim('when')}  ${what} ${came}${because.length > 0 ? `: ${because.join(' ')}` : ''}`;
  return [wrapped(look, `${stem}${told}`, 2, 20), ...parts.flatMap((part) => conditionLines(look, part, `${stem}  `))];
}

function readText({ field, value, isSecret }: Explained['read'][number]): string {
  return `${field} ${isSecret ? '(withheld)' : value === undefined ? '(nothing)' : short(value)}`;
}

function askedText({ collection, want, where, key, found }: Asked): string {
  const conditions = where.map((condition, at) => `${condition} ${short(key[at])}`).join(' and ');
  return `${collection} where ${conditions}: ${answerText(want, found, short)}`;
}

/** Characters of a value that are shown. */
const MOST_SHOWN = 100;

function short(value: unknown): string {
  const text = JSON.stringify(value) ?? '(nothing)';
  return text.length > MOST_SHOWN ? `${text.slice(0, MOST_SHOWN - 1)}…` : text;
}
