import { isIntake } from '../../core/intake.ts';
import { type TriedChange, triedChanges } from '../../proof/changes.ts';
import { casesOf, nameOf, type Proof, prove } from '../../proof/prove.ts';
import { samplesOf } from '../../proof/rule-cases.ts';
import { checkSubject, looksLikeSubject, type Subject } from '../../proof/subject.ts';
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
  /** Proofs that were run of the subject. */
  readonly proofs: number;
  readonly cases: number;
  readonly changes: readonly TriedChange[] | undefined;
}

export async function proveModules(modules: readonly string[], flags: ProveFlags, context: Context): Promise<Exit> {
  const subjects: Subject[] = [];
  for (const module of modules) subjects.push(...subjectsIn(module, await loadModule(module)));
  const all = withoutBare(subjects).filter((subject) => flags.intake === undefined || nameOf(subject) === flags.intake);
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
    proofs: subjects.length,
    isProven,
    problems: [...new Set(proofs.flatMap(({ problems }) => problems))],
    gaps: first.gaps.filter((gap) => proofs.every(({ gaps }) => gaps.includes(gap))),
    edges: first.edges,
    cases: cases.size,
    changes,
  };
}

/** The subjects of a module: proofs by themselves or in lists, intakes, rules with samples. What looks like a proof and is none is refused. */
function subjectsIn(module: string, exported: { readonly [name: string]: unknown }): Subject[] {
  return Object.entries(exported).flatMap(([name, value]): Subject[] => {
    if (Array.isArray(value))
      return value.flatMap((each, at) =>
        name === 'proofs' || looksLikeSubject(each) ? [subjectAt(`${module}, ${name}[${at}]`, each)] : [],
      );
    if (isIntake(value)) return [{ intake: value, accepts: [], rejects: [] }];
    if (looksLikeSubject(value)) return [subjectAt(`${module}, ${name}`, value)];
    const definition = (value as { readonly definition?: Parameters<typeof samplesOf>[0] } | null)?.definition;
    return definition && samplesOf(definition) ? [{ rule: value as Extract<Subject, { rule: unknown }>['rule'] }] : [];
  });
}

function subjectAt(where: string, value: unknown): Subject {
  try {
    checkSubject(value, where);
    return value;
  } catch (cause) {
    throw new Misuse((cause as Error).message);
  }
}

/** Each proof once; an intake or a rule that some proof is about needs none of its own. */
function withoutBare(subjects: readonly Subject[]): Subject[] {
  const aboutOf = (subject: Subject) => ('rule' in subject ? subject.rule : subject.intake);
  const isBare = (subject: Subject) =>
    'rule' in subject ? subject.samples === undefined : subject.accepts.length + subject.rejects.length === 0;
  const proved = new Set(subjects.filter((subject) => !isBare(subject)).map(aboutOf));
  const seen = new Set<unknown>();
  return subjects.filter((subject) => {
    const known = isBare(subject) ? aboutOf(subject) : subject;
    if (seen.has(known) || (isBare(subject) && proved.has(aboutOf(subject)))) return false;
    seen.add(known);
    return true;
  });
}

function asText(proven: readonly Proven[], look: Look): string {
  const { paint } = look;
  const lines: string[] = [];
  for (const { subject, proofs, cases, problems, gaps, edges, changes } of proven) {
    const state = problems.length === 0 ? paint.green('as expected') : paint.red(`${problems.length} not as expected`);
    const tried = edges.length > 0 ? `, ${counted(edges.length, 'value')} at edges tried` : '';
    const from = proofs > 1 ? ` of ${counted(proofs, 'proof')}` : '';
    lines.push(`${paint.bold(subject)}: ${counted(cases, 'sample')}${from}, ${state}${tried}`);
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
  const unnoticed = proven.reduce((sum, { changes = [] }) => sum + changes.filter(({ isNoticed }) => !isNoticed).length, 0);
  const all = proven.reduce((sum, { cases }) => sum + cases, 0);
  lines.push(
    '',
    `${counted(proven.length, 'subject')}, ${counted(all, 'sample')}: ${failed === 0 ? 'everything as expected' : `${failed} not as expected`}${unnoticed === 0 ? '' : `, and ${counted(unnoticed, 'change')} noticed by nothing`}.`,
  );
  return `${lines.join('\n')}\n`;
}
