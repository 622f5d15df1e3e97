import { fault } from '../core/basics/fault.ts';
import { kindOf, optionsOf } from '../core/basics/known.ts';
import { isIntake } from '../core/intake.ts';
import type { Options } from '../core/judging/options.ts';
import type { Provable, Samples } from './rule-cases.ts';

// What is to be proved, looked at before anything is run: what is passed over proves nothing, and looks as if it did.

/** Submissions that an intake must accept, and that it must reject by certain uses. */
export interface Submissions {
  readonly accepts: readonly unknown[];
  /** `by` are the uses (`as` name, or `rule@field`) that must fail, all of them and no others. */
  readonly rejects: readonly { readonly submission: unknown; readonly by: readonly string[] }[];
  /** Changes to stored records, and the uses that refuse each; none for one that is accepted. */
  readonly changes?: readonly Change[];
  /** How they are judged: records, clock, given fields. */
  readonly options?: Options & { readonly given?: object };
}

/** A change, as `amend` is given it. */
export interface Change {
  readonly stored: object;
  readonly change: unknown;
  /** The uses that must fail, all of them and no others. Defaults to none: the change is accepted. */
  readonly by?: readonly string[];
  /** `itself`, `whole` and the like, besides the options of all. */
  readonly options?: object;
}

/** What to prove: a rule by its samples, or an intake by those of its rules and by submissions. */
export type Subject =
  | {
      readonly rule: Provable;
      /** Besides those that the rule brings. */
      readonly samples?: Partial<Samples>;
    }
  | ({ readonly intake: { readonly name: string } } & Submissions);

/** Whether something is meant for a proof: a rule with samples, or an intake with submissions, however it is misspelt. */
export function looksLikeSubject(value: unknown): boolean {
  if (typeof value !== 'object' || value === null || isIntake(value)) return false;
  const about = Object.values(value).some((each) => isIntake(each) || isRule(each));
  return about || ['accepts', 'rejects', 'samples'].some((name) => name in value);
}

function isRule(value: unknown): boolean {
  return typeof value === 'function' && 'definition' in value;
}

/** @throws Fault for what is no proof, with what it lacks */
export function checkSubject(subject: unknown, where = 'A proof'): asserts subject is Subject {
  const given = (subject ?? {}) as Partial<Record<string, unknown>>;
  if ('rule' in given) {
    optionsOf(where, given, ['rule', 'samples']);
    const { rule, samples } = given;
    if (typeof rule !== 'function' && (typeof rule !== 'object' || rule === null || !('definition' in rule)))
      fault(`${where}: "rule" is ${kindOf(rule)}, and no rule.`);
    if (samples === undefined) return;
    const sides = optionsOf(`${where}, samples`, samples as { readonly [side: string]: unknown }, ['holds', 'fails']);
    for (const [side, list] of Object.entries(sides)) if (!Array.isArray(list)) fault(`${where}, samples: ${side} is a list of samples.`);
    return;
  }
  if (!('intake' in given)) {
    const names = Object.keys(given);
    fault(
      `${where} is about a rule or an intake, { rule, samples } or { intake, accepts, rejects }, and this says ${names.join(', ') || kindOf(subject)}.`,
    );
  }
  optionsOf(where, given, ['intake', 'accepts', 'rejects', 'changes', 'options']);
  if (!isIntake(given.intake)) fault(`${where}: "intake" is ${kindOf(given.intake)}, and no intake.`);
  const about = `${where} of "${given.intake.name}"`;
  const { accepts, rejects, changes = [] } = given;
  if (!Array.isArray(accepts)) fault(`${about} needs accepts: the submissions that are accepted, as a list.`);
  if (!Array.isArray(rejects)) fault(`${about} needs rejects: a list of { submission, by }.`);
  for (const each of rejects as unknown[]) {
    const { by, submission } = optionsOf(`${about}, rejects`, each as { by?: unknown; submission?: unknown }, ['submission', 'by']);
    if (submission === undefined) fault(`${about}, rejects: one has no submission.`);
    if (!Array.isArray(by) || by.length === 0)
      fault(`${about}, rejects: by names the uses that reject; an empty list would reject nothing.`);
  }
  if (!Array.isArray(changes)) fault(`${about}: changes is a list of { stored, change, by }.`);
  for (const each of changes as unknown[]) {
    const { stored, change } = optionsOf(`${about}, changes`, each as { stored?: unknown; change?: unknown }, [
      'stored',
      'change',
      'by',
      'options',
    ]);
    if (typeof stored !== 'object' || stored === null || change === undefined)
      fault(`${about}, changes: each has what is stored and the change.`);
  }
}
