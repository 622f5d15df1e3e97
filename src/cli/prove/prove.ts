import { isIntake } from '../../core/intake.ts';
import { type TriedChange, triedChanges } from '../../proof/changes.ts';
import { casesOf, nameOf, type Proof, prove, type Subject } from '../../proof/prove.ts';
import { samplesOf } from '../../proof/rule-cases.ts';
import type { Context } from '../basics/context.ts';
import { loadModule } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { counted, type Look, lookOf, wrapped } from '../basics/terminal.ts';

export interface ProveFlags {
  readonly intake?: string;
  readonly changes?: boolean;
  readonly format: 'text' | 'json';
}

interface Proven extends Proof {
  readonly cases: number;
  readonly changes: readonly TriedChange[] | undefined;
}

export async function proveModules(modules: readonly string[], flags: ProveFlags, context: Context): Promise<Exit> {
  const subjects: Subject[] = [];
  for (const module of modules) subjects.push(...subjectsIn(await loadModule(module)));
  const all = merged(subjects).filter((subject) => flags.intake === undefined || nameOf(subject) === flags.intake);
  if (all.length === 0)
    throw new Misuse(
      flags.intake === undefined
        ? `${modules.join(', ')} exports nothing to prove: no rule with samples, no intake, no "proofs".`
        : `${modules.join(', ')} exports no intake named "${flags.intake}".`,
    );
  const proven: Proven[] = [];
  for (const subjects of grouped(all)) proven.push(await provenOf(subjects, flags.changes === true));
  await context.out(
    flags.format === 'json' ? `${JSON.stringify({ version: 1, proofs: proven })}\n` : asText(proven, lookOf(context.stdout)),
  );
  if (proven.some(({ isProven }) => !isProven)) return EXIT.rejected;
  return proven.some(({ changes }) => changes?.some(({ isNoticed }) => !isNoticed)) ? EXIT.undecided : EXIT.accepted;
}

/** Proofs of one intake belong together: what one leaves open another may try. */
function grouped(subjects: readonly Subject[]): Subject[][] {
  const groups = new Map<unknown, Subject[]>();
  for (const subject of subjects) {
    const about = 'rule' in subject ? subject.rule : subject.intake;
    groups.set(about, [...(groups.get(about) ?? []), subject]);
  }
  return [...groups.values()];
}

async function provenOf(subjects: readonly Subject[], withChanges: boolean): Promise<Proven> {
  const proofs = await Promise.all(subjects.map((subject) => prove(subject)));
  const [first] = proofs as [Proof];
  const isProven = proofs.every((proof) => proof.isProven);
  const cases = new Set(subjects.flatMap((subject) => casesOf(subject).map(({ name }) => name)));
  let changes: readonly TriedChange[] | undefined;
  // A change is looked for only where everything is as expected.
  if (withChanges && isProven) {
    const noticed = new Map<string, boolean>();
    for (const subject of subjects)
      for (const { what, isNoticed } of await triedChanges(subject)) noticed.set(what, noticed.get(what) === true || isNoticed);
    changes = [...noticed].map(([what, isNoticed]) => ({ what, isNoticed }));
  }
  return {
    subject: first.subject,
    isProven,
    problems: [...new Set(proofs.flatMap(({ problems }) => problems))],
    gaps: first.gaps.filter((gap) => proofs.every(({ gaps }) => gaps.includes(gap))),
    edges: first.edges,
    cases: cases.size,
    changes,
  };
}

/** The subjects of a module: lists of proofs, intakes by themselves, rules with samples. */
function subjectsIn(exported: { readonly [name: string]: unknown }): Subject[] {
  return Object.values(exported).flatMap((value): Subject[] => {
    if (Array.isArray(value)) return value.filter(isSubject);
    if (isIntake(value)) return [{ intake: value, accepts: [], rejects: [] }];
    const definition = (value as { readonly definition?: Parameters<typeof samplesOf>[0] } | null)?.definition;
    return definition && samplesOf(definition) ? [{ rule: value as Extract<Subject, { rule: unknown }>['rule'] }] : [];
  });
}

function isSubject(value: unknown): value is Subject {
  return typeof value === 'object' && value !== null && ('rule' in value || ('intake' in value && 'accepts' in value));
}

/** An intake that some proof is about needs none of its own. */
function merged(subjects: readonly Subject[]): Subject[] {
  const proved = new Set(
    subjects.flatMap((subject) => ('intake' in subject && subject.accepts.length + subject.rejects.length > 0 ? [subject.intake] : [])),
  );
  const seen = new Set<unknown>();
  return subjects.filter((subject) => {
    const about = 'rule' in subject ? subject.rule : subject.intake;
    const isBare = 'intake' in subject && subject.accepts.length + subject.rejects.length === 0;
    if (seen.has(subject) || (isBare && (proved.has(subject.intake) || seen.has(about)))) return false;
    seen.add(subject);
    if (isBare || 'rule' in subject) {
      if (seen.has(about)) return false;
      seen.add(about);
    }
    return true;
  });
}

function asText(proven: readonly Proven[], look: Look): string {
  const { paint } = look;
  const lines: string[] = [];
  for (const { subject, cases, problems, gaps, edges, changes } of proven) {
    const state = problems.length === 0 ? paint.green('as expected') : paint.red(`${problems.length} not as expected`);
    const tried = edges.length > 0 ? `, ${counted(edges.length, 'value')} at edges tried` : '';
    lines.push(`${paint.bold(subject)}: ${counted(cases, 'sample')}, ${state}${tried}`);
    for (const problem of problems) lines.push(wrapped(look, `${paint.red('✗')} ${problem}`, 2, 4));
    for (const gap of gaps) lines.push(wrapped(look, `${paint.yellow('untried')} ${gap}`, 2, 10));
    const unnoticed = changes?.filter(({ isNoticed }) => !isNoticed) ?? [];
    if (changes)
      lines.push(
        `  ${counted(changes.length, 'change')} tried, ${unnoticed.length === 0 ? paint.green('all noticed') : paint.yellow(`${unnoticed.length} noticed by nothing`)}`,
      );
    for (const { what } of unnoticed) lines.push(wrapped(look, `${paint.yellow('unnoticed')} ${what}`, 4, 14));
  }
  const failed = proven.reduce((sum, { problems }) => sum + problems.length, 0);
  const all = proven.reduce((sum, { cases }) => sum + cases, 0);
  lines.push(
    '',
    `${counted(proven.length, 'subject')}, ${counted(all, 'sample')}: ${failed === 0 ? 'everything as expected' : `${failed} not as expected`}.`,
  );
  return `${lines.join('\n')}\n`;
}
