import type { Finding, Place, TraceLine, Unsettled, Verdict, Why } from '../core/verdict.ts';
import type { Datum } from './read-data.ts';

/** What became of one piece of data. */
export type Judged = { readonly source: string; readonly verdict: Verdict<unknown> } | Extract<Datum, { unreadable: string }>;

export interface Counts {
  accepted: number;
  rejected: number;
  undecided: number;
  unreadable: number;
}

/** How a run tells what it found. */
export interface Printer {
  judged(judged: Judged): string;
  end(counts: Counts): string;
}

/** For people. */
export const asText: Printer = {
  judged(judged) {
    if ('unreadable' in judged) return `${judged.source}: not JSON\n  ${judged.unreadable}\n`;
    const { source, verdict } = judged;
    const lines = [`${source}: ${verdict.outcome}`];
    for (const finding of findingsOf(verdict)) lines.push(...findingLines(finding));
    if (verdict.outcome === 'rejected' && verdict.more) lines.push('  and more findings');
    for (const unsettled of verdict.unsettled) lines.push(...unsettledLines(unsettled));
    if (verdict.trace) lines.push('  trace:', ...traceLines(verdict.trace));
    return `${lines.join('\n')}\n`;
  },
  end({ accepted, rejected, undecided, unreadable }) {
    const total = accepted + rejected + undecided;
    const lines = unreadable === 0 ? '' : `, ${unreadable} not JSON`;
    return `\n${total} ${total === 1 ? 'submission' : 'submissions'}: ${accepted} accepted, ${rejected} rejected, ${undecided} undecided${lines}.\n`;
  },
};

/** For programs: one JSON object a submission, without its value. */
export const asJson: Printer = {
  judged(judged) {
    if ('unreadable' in judged) return `${JSON.stringify({ source: judged.source, outcome: 'unreadable', problem: judged.unreadable })}\n`;
    const { outcome, unsettled, trace } = judged.verdict;
    const found =
      judged.verdict.outcome === 'rejected'
        ? { findings: judged.verdict.findings, more: judged.verdict.more }
        : { warnings: judged.verdict.warnings };
    return `${JSON.stringify({ source: judged.source, outcome, ...found, unsettled, trace })}\n`;
  },
  end: () => '',
};

function findingsOf(verdict: Verdict<unknown>): readonly Finding[] {
  return verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
}

function findingLines({ severity, message, places, use }: Finding): string[] {
  return [`  ${severity === 'warning' ? 'Warning: ' : ''}${message}`, `      ${pointersOf(places)}  ${use}`];
}

const REASONS: { readonly [why in Why]: string } = {
  unavailable: 'the records could not be asked',
  'timed-out': 'no answer came in time',
  aborted: 'it was called off',
  fault: 'the rule itself failed',
  'not-asked': 'there were no records to ask; give them with --records',
  'stored-unsound': 'a stored record is not as it should be',
  'too-many-rows': 'more rows match than a rule would see',
  contended: 'others were storing at the same time, again and again',
};

function unsettledLines({ why, cause, places, use }: Unsettled): string[] {
  // The cause stays out of the JSON, and is told to the person at the terminal.
  const told = cause instanceof Error && why !== 'not-asked' ? ` (${cause.message})` : '';
  return [`  Not decided: ${REASONS[why]}${told}.`, `      ${pointersOf(places)}  ${use}`];
}

function pointersOf(places: readonly Place[]): string {
  return places.map(({ pointer }) => pointer || '(the whole submission)').join(' ');
}

function traceLines(trace: readonly TraceLine[]): string[] {
  return trace.map(({ outcome, step, use, why, because }) => {
    const reason = [why, because?.join(' ')].filter(Boolean).join(': ');
    return `    ${outcome.padEnd(10)}${step.padEnd(9)}${use}${reason && `  (${reason})`}`;
  });
}
