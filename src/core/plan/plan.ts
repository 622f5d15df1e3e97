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

/** What may stand inside a step, as declared: the fields of an object, or the item that each entry is like. */
export interface Inside {
  readonly steps: readonly FieldStep[];
  /** The steps stand in the frame of each entry, and not in that of the step. */
  readonly isEntry: boolean;
  /** They are there when this shape is. */
  readonly shape?: string;
}

/**
 * All that one sort of step does while data is judged. Each has a file of its own in `core/steps`; what changes of stored
 * records (`….changes.ts`) and generated code (`….code.ts`) need stands beside it, so that pages load it only with these.
 */
export interface StepSort<S = FieldStep> {
  readonly name: 'scalar' | 'group' | 'list' | 'table' | 'shapes';
  /** Its value is put together from what stands inside. */
  readonly isMade: boolean;
  /** A form sends only what is inside, and never the thing itself. */
  readonly isSentInParts: boolean;
  /** The same fields stand in it whenever it is there. */
  readonly isOpen: boolean;
  /** What stands for none at all (`orEmpty`). */
  readonly none?: object;
  /** Reads what was sent, of JSON or of a form; the plan lies beneath the run, which is `Reading` in `steps/reading.ts`. */
  read(run: never, step: S, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown;
  /** What its generated code calls, taken from here so that code carries no sort that no field has. */
  readonly calls?: { readonly [name: string]: unknown };
  /** The value of what is held in a frame. */
  value(step: S, held: unknown, frame: Frame): unknown;
  /** Whether two frames hold the same, and the same inside. */
  isSame(step: S, frame: Frame, other: Frame): boolean;
  /** Everything that may stand inside. */
  inside(step: S): readonly Inside[];
  /** Shows each step that does stand inside, with its frame, until `visit` gives something. */
  within<T, A>(step: S, frame: Frame, visit: Visit<T, A>, more: A): T | undefined;
}
export type Visit<T, A> = (inner: FieldStep, frame: Frame, more: A, key?: EntryKey) => T | undefined;

interface StepBase {
  /** What kind of thing the step is, with all that it does. */
  readonly sort: StepSort;
  /** Everything that may stand inside. */
  readonly inside: readonly Inside[];
  readonly key: string;
  readonly slot: number;
  readonly kind: KindSpec;
  readonly place: PlaceSpec;
  readonly needed: boolean;
  readonly filledBy: Filling | undefined;
  readonly nullAllowed: boolean;
  readonly isLeftOut: boolean;
  readonly checks: readonly ValueCheck[];
  /** Of texts alone. */
  readonly blankAllowed: boolean;
  /** Of shapes alone: the key that tells them apart. */
  readonly tag: string | undefined;
  /** Of lists and tables: entries at most, more are not read; 0 of others. */
  readonly most: number;
  /** Of scalars alone. */
  readonly cleans: readonly CleanStep[];
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

/** What all steps have is what one value needs. */
export type ScalarStep = StepBase;
export interface GroupStep extends StepBase {
  readonly inner: FieldSteps;
}
/** A list, or a table of named entries. */
export interface ListStep extends StepBase {
  /** Rows of a form that are all blank are not there. */
  readonly dropsBlankRows: boolean;
  readonly item: FieldStep;
  /** Slots of an entry's frame. */
  readonly size: number;
}
export interface ShapesStep extends StepBase {
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

/** What one sort of condition does; each has a file of its own in `core/conditions`. */
export interface ConditionSort {
  readonly name: 'condition' | 'not' | 'all' | 'any' | 'occasion' | 'calendar';
  /** It holds where what it is made of does not. */
  readonly negates?: true;
  /** What it comes to; the plan lies beneath what it is told, which is `Coming` in `conditions/coming.ts`. */
  come(condition: never, guards: readonly never[], run: never, item: never, find: never): unknown;
}

interface ConditionBase {
  readonly sort: ConditionSort;
  /** What it is made of. */
  readonly of: readonly ConditionPlan[];
}
export type JoinedCondition = ConditionBase;
export interface ReadsCondition extends ConditionBase {
  readonly definition: Definition;
  readonly takes: Takes;
  readonly roles: readonly RolePlan[];
  readonly lookUps: readonly LookUpPlan[];
}
export interface OccasionCondition extends ConditionBase {
  readonly names: readonly string[];
}
export interface CalendarCondition extends ConditionBase {
  readonly from: Day | undefined;
  readonly until: Day | undefined;
}
export type ConditionPlan = JoinedCondition | ReadsCondition | OccasionCondition | CalendarCondition;

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
  /** That others may break it before something is stored is taken into account. */
  readonly isUnguarded: boolean;
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
