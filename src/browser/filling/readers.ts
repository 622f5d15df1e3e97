import { planOf } from '../../core/intake.ts';
import { leavesOf } from '../../core/plan/leaves.ts';
import { ENTRY, type RolePlan, type UsePlan } from '../../core/plan/plan.ts';
import { segmentsOf } from '../../forms/names.ts';
import { type ShownFinding, UNTOLD } from './finding.ts';

/** Segments of a pointer; `ENTRY` stands for any entry. */
type Pattern = readonly (string | typeof ENTRY)[];

/** What findings have to do with: the uses of rules that they may be of, and what these read. */
export class Readers {
  readonly #uses: readonly UsePlan[];

  constructor(intake: { readonly name: string }) {
    this.#uses = planOf(intake).uses;
  }

  /** Whether the finding needs records, or somebody outside, and nothing that stays in the page: secrets and files. */
  isAsked(finding: ShownFinding): boolean {
    const uses = this.#usesOf(finding).map(({ use }) => use);
    return uses.length > 0 && uses.every((use) => use.phase !== 'between' && rolesOf(use).every(isSent));
  }

  /** Whether a finding depends on what stands at a pointer. One of which nobody knows what it has read depends on all of the form. */
  readingOf(finding: ShownFinding): (pointer: string) => boolean {
    const patterns: Pattern[] = finding.at.map(segmentsOf);
    for (const { use, indexes } of this.#usesOf(finding)) {
      for (const role of rolesOf(use)) for (const pattern of readBy(role)) patterns.push(within(pattern, indexes.slice(0, role.depth)));
    }
    if (patterns.length === 0) return () => true;
    return (pointer) => patterns.some((pattern) => meets(pattern, segmentsOf(pointer)));
  }

  /** The uses, and in which entries they were evaluated. A look-up that found nothing is told as `known`, at what it asked with. */
  #usesOf({ rule, at: [first] }: ShownFinding): { readonly use: UsePlan; readonly indexes: readonly string[] }[] {
    const segments = first === undefined ? undefined : segmentsOf(first);
    return this.#uses.flatMap((use) => {
      const isOf = use.rule === rule || rule === UNTOLD;
      const blamed = [...(isOf ? use.blamed : []), ...(rule === 'known' ? use.lookUps.flatMap(({ blames }) => blames) : [])];
      if (segments === undefined) return use.rule === rule ? { use, indexes: [] } : [];
      for (const role of blamed) {
        const place = (role.entry?.roles ?? [role]).find((each) => isAt(each.place.segments, segments))?.place.segments;
        if (place) return { use, indexes: segments.filter((_, index) => place[index] === ENTRY).slice(0, role.depth) };
      }
      return [];
    });
  }
}

/** What a use reads of the submission, its conditions too. */
function rolesOf({ roles, when }: UsePlan): RolePlan[] {
  const all = [...roles, ...when.flatMap(leavesOf).flatMap((condition) => condition.roles)];
  return all.filter(({ isGiven, isStored }) => !isGiven && !isStored);
}

/** Where a role reads: at its field, and at what tells the shapes around it apart. */
function readBy(role: RolePlan): Pattern[] {
  return (role.entry?.roles ?? [role]).flatMap(({ place, holders, outerHolders }) => [
    place.segments,
    ...[...holders, ...outerHolders, ...role.outerHolders].flatMap(({ step }) =>
      step.tag === undefined ? [] : [[...step.place.segments, step.tag]],
    ),
  ]);
}

function isSent(role: RolePlan): boolean {
  return (role.entry?.roles ?? [role]).every(({ step }) => !step.place.isSecret && step.kind.isObject !== true);
}

/** A place in the entries that are known, from the outermost on. */
function within(segments: Pattern, indexes: readonly string[]): Pattern {
  let at = 0;
  return segments.map((segment) => (segment === ENTRY ? (indexes[at++] ?? ENTRY) : segment));
}

const isAt = (pattern: Pattern, segments: readonly string[]): boolean => pattern.length === segments.length && meets(pattern, segments);

/** Whether both are the same, or one stands in the other. */
function meets(pattern: Pattern, segments: readonly string[]): boolean {
  const length = Math.min(pattern.length, segments.length);
  return pattern.slice(0, length).every((segment, index) => segment === ENTRY || segment === segments[index]);
}
