import type { Day } from '../basics/days.ts';
import type { Texts } from '../basics/text.ts';
import type { Severity } from '../basics/verdict.ts';
import type { KindSpec, RoleSpec } from '../declared/kind.ts';
import type { CollectionSpec, LookUpSpec } from '../declared/look-up.ts';
import type { Definition, Filling, Takes } from '../declared/rule.ts';
import type { Catalogue } from '../messages/catalogues/catalogue.ts';
import type { FoundFact } from '../stored/found-facts.ts';

// The plan is neutral: it says what to read and evaluate, in which order, and nothing about how. The loop in this folder
// executes it; generated code is another way to do the same.
//
// Values live in frames: one array of slots for the submission, and one for each entry of a list. A slot holds the typed
// value, `undefined` for what is absent, or UNSOUND for what failed. A group shares the frame of what it stands in.

/** In a slot: there was something, and it failed. No rule reads it. */
export const UNSOUND: unique symbol = Symbol.for('jestril.unsound');
/** In a slot: the stored record that is amended has it, and nobody knows what. A rule that reads it cannot be decided. */
export class Unstored {
  constructor(
    readonly why: 'stored-unsound' | 'fault',
    /** For the log; what was not loaded needs none. */
    readonly cause?: unknown,
  ) {}
}
/** Of a field that the application has not loaded. */
export const NOT_LOADED = new Unstored('stored-unsound');
/** In the slot of a group that is there; in that of shapes stands the name of the shape. */
export const PRESENT: unique symbol = Symbol.for('jestril.present');

export type Frame = unknown[];

/** Stands for an index in the pointer of a field inside a list. */
export const ENTRY: unique symbol = Symbol.for('jestril.entry');

/** Where a field is, for findings. */
export interface PlaceSpec {
  readonly path: string;
  readonly segments: readonly (string | typeof ENTRY)[];
  readonly label: Texts;
  /** Position among all fields, in declared order. */
  readonly order: number;
  readonly isSecret: boolean;
  /** It is secret, or something inside it. */
  readonly holdsSecret: boolean;
  /** From which entry on its names are secret, counted from 1; 0 where none is. */
  readonly secretNames: number;
  /** Of each list around it, outermost first: what its entries are called; nothing where none has words for them. */
  readonly entryLabels?: readonly (Texts | undefined)[];
}

interface StepBase {
  readonly key: string;
  readonly slot: number;
  readonly kind: KindSpec;
  readonly place: PlaceSpec;
  readonly needed: boolean;
  readonly filledBy: Filling | undefined;
  readonly nullAllowed: boolean;
  readonly isLeftOut: boolean;
  readonly checks: readonly ValueCheck[];
}

/** A cleaning step by its name. */
export interface CleanStep {
  readonly name: string;
  /** Ready-made: its name says all. */
  readonly isOurs?: true;
  readonly apply: (value: unknown) => unknown;
  /** What the application has written, where `apply` looks at what it gives. */
  readonly written?: unknown;
}

export interface ScalarStep extends StepBase {
  readonly op: 'scalar';
  readonly blankAllowed: boolean;
  readonly cleans: readonly CleanStep[];
}
export interface GroupStep extends StepBase {
  readonly op: 'group';
  readonly inner: FieldSteps;
}
/** A list, or a table of named entries. */
export interface ListStep extends StepBase {
  readonly op: 'list';
  readonly isNamed: boolean;
  /** Rows of a form that are all blank are not there. */
  readonly dropsBlankRows: boolean;
  readonly item: FieldStep;
  /** Slots of an entry's frame. */
  readonly size: number;
  /** Entries at most; more are not read. */
  readonly most: number;
}
export interface ShapesStep extends StepBase {
  readonly op: 'shapes';
  readonly tag: string;
  readonly shapes: ReadonlyMap<string, FieldSteps>;
}
export type FieldStep = ScalarStep | GroupStep | ListStep | ShapesStep;

/** A group, or one of several shapes, inside which a field stands. */
export interface Holder {
  readonly step: GroupStep | ShapesStep;
  /** The name of the shape. */
  readonly shape?: string;
}

/** Where an entry stands in its list or table. */
export type EntryKey = number | string;
/** In the slot of a list or table: a frame for each entry, and the names of a table's. */
export type Entries = Frame[] & {
  names?: readonly string[];
  /** Of a form's rows, some of which are left out: their numbers there. */
  numbers?: readonly number[];
};

/** The fields of one object. */
export interface FieldSteps {
  readonly steps: readonly FieldStep[];
  readonly keys: ReadonlySet<string>;
  /** What to call a stranger's home in a finding; `undefined` at the top. */
  readonly home: PlaceSpec | undefined;
}

/** What is common to everything that can fail. */
export interface UseInfo {
  readonly rule: string;
  readonly use: string;
  readonly severity: Severity;
  /** It is judged and counted, and changes no verdict. */
  readonly isTrial: boolean;
  /** Declared position, for the order of findings. */
  readonly order: number;
  /** Nearest first. */
  readonly messages: readonly Texts[];
}

/** A value rule on its field: evaluated while the field is read. */
export interface ValueCheck extends UseInfo {
  readonly definition: Definition;
  readonly takes: Takes;
  readonly on: readonly string[] | undefined;
  readonly facts: FactPlan;
}

/** Which facts a finding of this use carries: what its messages name, so that nothing else leaks. */
export interface FactPlan {
  readonly values: readonly { readonly fact: string; readonly role: string }[];
  readonly found: readonly FoundFact[];
  /** The rule was given something secret: what it tells of its own is withheld, unless it is declared open. */
  readonly isSecret: boolean;
  /** A finding tells the same of every submission: nothing of what was read or found. */
  readonly isFixed: boolean;
  /** The labels of the roles, by role. */
  readonly labels: { readonly [role: string]: Texts };
}

/** How a role finds its value: in the slot of its field in `frames[depth]`, or in all entries below. */
export interface RolePlan {
  readonly name: string;
  readonly spec: RoleSpec;
  readonly place: PlaceSpec;
  readonly depth: number;
  readonly step: FieldStep;
  /** The lists around the field, outermost first. */
  readonly lists: readonly ListStep[];
  /** What the field stands in, from the frame on. */
  readonly holders: readonly Holder[];
  /** What the outermost list around the field stands in. */
  readonly outerHolders: readonly Holder[];
  readonly isGiven: boolean;
  /** Reads the stored record that is amended, and not what becomes of it. */
  readonly isStored: boolean;
  /** Of an `entries` role: the lists to walk from `frames[depth]`, and what to read of each entry. */
  readonly entry?: { readonly lists: readonly ListStep[]; readonly roles: readonly RolePlan[] };
}

export interface LookUpPlan {
  readonly name: string;
  readonly spec: LookUpSpec;
  /** The roles asked with, blamed when `one` finds nothing. */
  readonly blames: readonly RolePlan[];
}

export type ConditionPlan =
  | {
      readonly op: 'reads';
      readonly definition: Definition;
      readonly takes: Takes;
      readonly roles: readonly RolePlan[];
      readonly lookUps: readonly LookUpPlan[];
    }
  | { readonly op: 'not'; readonly of: ConditionPlan }
  | { readonly op: 'all' | 'any'; readonly of: readonly ConditionPlan[] }
  | { readonly op: 'occasion'; readonly names: readonly string[] }
  | { readonly op: 'calendar'; readonly from: Day | undefined; readonly until: Day | undefined };

/** A rule between fields, against records or outside. */
export interface UsePlan extends UseInfo {
  /** `on` or a condition says on which occasion it counts, so that a change is never too small for it. */
  readonly namesOccasion: boolean;
  readonly definition: Definition;
  readonly takes: Takes;
  readonly on: readonly string[] | undefined;
  readonly phase: 'between' | 'record' | 'outside';
  /** The lists whose entries it is evaluated on, outermost first; empty for the submission as a whole. */
  readonly scope: readonly ListStep[];
  readonly roles: readonly RolePlan[];
  readonly blamed: readonly RolePlan[];
  readonly lookUps: readonly LookUpPlan[];
  /** Asked once it has failed, for the message. */
  readonly tells: readonly LookUpPlan[];
  readonly when: readonly ConditionPlan[];
  readonly facts: FactPlan;
  /** The name of the store's constraint that enforces the same. */
  readonly constraint: string | undefined;
  /** It was given a name of its own (`as`). */
  readonly hasName: boolean;
}

/** When code is written for a plan: once it has been judged often, at once, or never. */
export type WhenWritten = 'when-busy' | 'at-once' | 'never';
/** How often a plan was judged, and the code for it once that is often. Besides the plan: it says nothing about what is judged. */
export interface Busy {
  readonly when: WhenWritten;
  count: number;
  code: object | undefined;
}

/** The compiled form of an intake. */
export interface Plan {
  readonly name: string;
  readonly fields: FieldSteps;
  readonly given: FieldSteps;
  readonly size: number;
  /** All rules but those about one value, in declared order; then the same by step. */
  readonly uses: readonly UsePlan[];
  readonly between: readonly UsePlan[];
  /** Everything that has to ask records first, outside checks among them. */
  readonly record: readonly UsePlan[];
  /** Outside checks that need no records. */
  readonly outside: readonly UsePlan[];
  /** The intake's own messages, for what the engine itself finds. */
  readonly messages: { readonly [name: string]: Texts };
  readonly catalogues: readonly Catalogue[];
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly mostFindings: number;
  /** Entries that may be read and handed to rules in one judgement. */
  readonly budget: number;
  readonly refuseStrangers: boolean;
  readonly zone: string | undefined;
  readonly occasions: readonly string[];
  readonly storedIn: CollectionSpec | undefined;
  /** Every collection that some look-up asks. */
  readonly collections: readonly CollectionSpec[];
  readonly busy: Busy;
}
