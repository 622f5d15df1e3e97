import { graphOf } from '../core/beside.ts';
import type { KindSpec } from '../core/declared/kind.ts';
import { UNREADABLE } from '../core/declared/kind.ts';
import type { LookUpSpec } from '../core/declared/look-up.ts';
import { planOf } from '../core/intake.ts';
import { toldOf } from '../core/kinds/told.ts';
import { wordsIn } from '../core/messages/catalogues/shipped.ts';
import type { Words } from '../core/messages/catalogues/words.ts';
import { textIn } from '../core/messages/render.ts';
import type { Graph } from '../core/plan/graph.ts';
import { leavesOf } from '../core/plan/leaves.ts';
import { needsOf } from '../core/plan/needs.ts';
import type { FieldStep, Plan, RolePlan, UsePlan, ValueCheck } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { type MadeExample, Maker } from '../made/index.ts';
import { lookUpName, valueAt } from '../made/situation.ts';
import { conditionIn, sentenceOf } from './words/sentences.ts';

/** An intake as people read it. */
export interface Description {
  readonly name: string;
  readonly locale: string;
  readonly words: Words;
  readonly zone: string | undefined;
  readonly occasions: readonly string[];
  readonly storedIn: string | undefined;
  readonly refusesStrangers: boolean;
  readonly fields: readonly DescribedField[];
  readonly given: readonly DescribedField[];
  /** Rules between fields, against records and outside. */
  readonly rules: readonly DescribedRule[];
  readonly collections: readonly DescribedCollection[];
  /** A submission that is accepted, with what is given and stored; none where none was found, or none was wanted. */
  readonly accepted: DescribedExample | undefined;
  readonly graph: Graph;
}

/** A field for people: its label, what it is, and its rules. */
export interface DescribedField {
  readonly path: string;
  /** How deep it stands in others. */
  readonly level: number;
  readonly label: string;
  readonly kind: string;
  readonly presence: string;
  /** Secret, not kept, and the like. */
  readonly marks: readonly string[];
  readonly options: readonly string[];
  readonly cleans: readonly string[];
  readonly rules: readonly DescribedRule[];
}

/** A rule for people: its sentence, and what it refuses. */
export interface DescribedRule {
  readonly rule: string;
  readonly use: string;
  readonly step: 'value' | 'between' | 'record' | 'outside';
  /** What must hold, as its findings say it. */
  readonly sentence: string;
  /** When it counts, and how; nothing where always and in full. */
  readonly terms: readonly string[];
  /** A submission that it refuses; `undefined` where none was found, or none was wanted. */
  readonly refused: Refused | undefined;
}

/** What a rule refuses: the values that it read, what was stored, and what was said. */
export interface Refused {
  readonly read: readonly { readonly label: string; readonly value: string }[];
  readonly stored: readonly { readonly collection: string; readonly found: string }[];
  readonly message: string;
}

/** A collection that rules look into. */
export interface DescribedCollection {
  readonly name: string;
  readonly key: readonly string[];
  readonly columns: readonly string[];
  /** Columns that have to be unique in the store, so that rules hold when several store at once. */
  readonly unique: readonly (readonly string[])[];
}

/** A submission that is accepted, with what is stored. */
export interface DescribedExample {
  readonly submission: object;
  readonly given: object;
  readonly stored: readonly { readonly collection: string; readonly row: string }[];
}

/** In which language an intake is described, and at which moment its examples are judged. */
export interface DescribeOptions {
  /** The language, as far as the intake speaks it. Defaults to `en`. */
  readonly locale?: string;
  /** The moment at which examples are judged. Defaults to the clock. */
  readonly now?: Date;
  readonly occasion?: string;
  /** Whether examples are made and judged. Defaults to true. */
  readonly examples?: boolean;
}

/** Describes an intake for people: its fields, its rules as sentences, and for each a submission that it refuses, which was judged. */
export async function descriptionOf(intake: { readonly name: string }, options: DescribeOptions = {}): Promise<Description> {
  return new Describer(intake, options).describe();
}

class Describer {
  readonly #intake: { readonly name: string };
  readonly #plan: Plan;
  readonly #maker: Maker;
  readonly #locale: string;
  readonly #words: Words;
  readonly #withExamples: boolean;
  #accepted: MadeExample | undefined;

  constructor(intake: { readonly name: string }, { locale = 'en', now, occasion, examples = true }: DescribeOptions) {
    this.#intake = intake;
    this.#plan = planOf(intake);
    this.#locale = locale;
    this.#words = wordsIn(locale, this.#plan.catalogues);
    this.#withExamples = examples;
    this.#maker = new Maker(intake, { locale, ...(now && { now }), ...(occasion !== undefined && { occasion }) });
  }

  async describe(): Promise<Description> {
    const { name, zone, occasions, storedIn, refuseStrangers } = this.#plan;
    this.#accepted = await this.#maker.accepted();
    const rules: DescribedRule[] = [];
    for (const use of this.#plan.uses) rules.push(await this.#between(use));
    return {
      name,
      locale: this.#locale,
      words: this.#words,
      zone,
      occasions,
      storedIn: storedIn?.name,
      refusesStrangers: refuseStrangers,
      fields: await this.#fieldsOf(this.#plan.fields),
      given: await this.#fieldsOf(this.#plan.given),
      rules,
      collections: this.#collections(),
      accepted: this.#withExamples && this.#accepted ? this.#exampleOf(this.#accepted) : undefined,
      graph: graphOf(this.#intake),
    };
  }

  async #fieldsOf(part: Plan['fields']): Promise<DescribedField[]> {
    const steps: FieldStep[] = [];
    walkSteps(part, (step) => steps.push(step));
    const fields: DescribedField[] = [];
    for (const step of steps) fields.push(await this.#field(step));
    return fields;
  }

  async #field(step: FieldStep): Promise<DescribedField> {
    const { kind, place } = step;
    const { secret, leftOut, nullAllowed } = this.#words;
    const options = kind.facts?.options ?? [];
    const rules: DescribedRule[] = [];
    for (const check of step.checks) rules.push(await this.#value(step, check));
    return {
      path: place.path,
      level: place.segments.length - 1,
      label: textIn(place.label, this.#locale),
      kind: this.#called(kind),
      presence: this.#presence(step),
      marks: [...(place.isSecret ? [secret] : []), ...(step.isLeftOut ? [leftOut] : []), ...(step.nullAllowed ? [nullAllowed] : [])],
      options: options.map((option, at) => {
        const label = textIn(kind.words?.options?.[at] ?? String(option), this.#locale);
        return label === String(option) ? label : `${option} (${label})`;
      }),
      cleans: step.cleans.map(({ name }) => name),
      rules,
    };
  }

  /** What a kind is called; one of the application's own by what it is made upon. */
  #called(kind: KindSpec): string {
    const told = toldOf(kind);
    return told ? (this.#words.kinds[told.spec.name] ?? told.called) : kind.name;
  }

  #presence({ needed, filledBy, place }: FieldStep): string {
    if (!filledBy) return needed ? this.#words.needed : this.#words.optional;
    if ('empty' in filledBy) return this.#words.emptyList;
    if (!('value' in filledBy)) return this.#words.computed;
    return `${this.#words.otherwise} ${place.isSecret ? this.#words.withheld : JSON.stringify(filledBy.value)}`;
  }

  async #value(step: FieldStep, check: ValueCheck): Promise<DescribedRule> {
    const example = step.sort.none ?? this.#maker.valueOf(step);
    const sentence = sentenceOf(check, [step.place], { field: example }, this.#locale, this.#words, this.#maker.at);
    const made = await this.#refusedBy(check.use);
    return {
      rule: check.rule,
      use: check.use,
      step: 'value',
      sentence,
      terms: this.#terms(check, []),
      refused: made && this.#shown(made, check.use, [{ place: step.place }], []),
    };
  }

  async #between(use: UsePlan): Promise<DescribedRule> {
    const { submission = {}, given = {} } = this.#accepted?.situation ?? {};
    const read = Object.fromEntries(
      use.roles.map((role) => [role.name, typed(role, valueAt(role.isGiven ? given : submission, role.place))]),
    );
    const places = use.blamed.map(({ place }) => place);
    const roles = [...use.roles, ...use.when.flatMap(leavesOf).flatMap((condition) => condition.roles)];
    const shown = roles.flatMap((role) => (role.entry ? role.entry.roles : [role]));
    const asked = [...use.lookUps, ...use.when.flatMap(leavesOf).flatMap(({ lookUps }) => lookUps)].map(({ spec }) => spec);
    const made = use.phase === 'outside' ? undefined : await this.#refusedBy(use.use);
    return {
      rule: use.rule,
      use: use.use,
      step: use.phase,
      sentence: sentenceOf(use, places, read, this.#locale, this.#words, this.#maker.at),
      terms: this.#terms(
        use,
        use.when.map((condition) => conditionIn(condition, this.#words, this.#locale)),
      ),
      refused: made && this.#shown(made, use.use, shown, asked),
    };
  }

  #terms({ severity, isTrial, on }: ValueCheck | UsePlan, conditions: readonly string[]): string[] {
    const { warning, trial, when, and } = this.#words;
    return [
      ...(conditions.length > 0 ? [`${when} ${conditions.join(` ${and} `)}`] : []),
      ...(on ? [`${this.#words.on} ${on.join(', ')}`] : []),
      ...(severity === 'warning' ? [warning] : []),
      ...(isTrial ? [trial] : []),
    ];
  }

  async #refusedBy(use: string): Promise<MadeExample | undefined> {
    return this.#withExamples ? this.#maker.rejectedBy(use) : undefined;
  }

  #shown({ situation, verdict }: MadeExample, use: string, roles: readonly Shown[], asked: readonly LookUpSpec[]): Refused {
    const findings = verdict.outcome === 'rejected' ? verdict.findings : verdict.warnings;
    const places = [...new Map(roles.map((role) => [role.place.path, role])).values()];
    return {
      read: places.map(({ place, isGiven }) => {
        const value = valueAt(isGiven ? situation.given : situation.submission, place);
        return { label: textIn(place.label, this.#locale), value: place.isSecret ? this.#words.withheld : this.#text(value) };
      }),
      stored: this.#stored(situation, asked, roles),
      message: findings.find((finding) => finding.use === use)?.message ?? '',
    };
  }

  /** What is stored, as far as look-ups read it; each collection once. */
  #stored(
    { submission, given, store }: MadeExample['situation'],
    asked: readonly LookUpSpec[],
    roles: readonly Shown[],
  ): Refused['stored'] {
    const found = new Map<string, string>();
    for (const spec of asked.flatMap(withInner)) {
      const { collection, columns, terms, form } = spec;
      if (found.has(collection.name)) continue;
      if (form.want !== 'rows') {
        const number = store.numbers[lookUpName(spec)] ?? 0;
        found.set(collection.name, form.gives === 'flag' ? (number > 0 ? this.#words.oneRow : this.#words.noRow) : String(number));
        continue;
      }
      const row = store.rows[collection.name];
      if (!row) {
        found.set(collection.name, this.#words.noRow);
        continue;
      }
      // The row that is asked for has what it is asked for by.
      const own = terms.flatMap(({ column, is, role, exactly }) => {
        if (is !== 'equal' && is !== 'ignoringCase') return [];
        const asker = roles.find((each) => each.name === role);
        const value = exactly ?? (asker && valueAt(asker.isGiven ? given : submission, asker.place)) ?? row[column];
        return [[column, asker?.place.isSecret ? this.#words.withheld : value] as const];
      });
      const shown = [...own, ...columns.map((column) => [column, row[column]] as const)];
      found.set(collection.name, this.#text(Object.fromEntries(shown.filter(([column]) => !collection.secret.has(column)))));
    }
    return [...found].map(([collection, text]) => ({ collection, found: text }));
  }

  #text(value: unknown): string {
    if (value === undefined) return this.#words.nothing;
    if (typeof value === 'string' && value.length > MOST_SHOWN) return this.#words.characters(value.length);
    if (typeof value === 'string' && value.trim() === value && value !== '') return value;
    const text = JSON.stringify(value) ?? this.#words.nothing;
    return text.length > MOST_SHOWN ? `${text.slice(0, MOST_SHOWN - 1)}…` : text;
  }

  /** The example, with the rows that were asked for. */
  #exampleOf({ situation }: MadeExample): DescribedExample {
    const { submission, given } = situation;
    const all = this.#plan.uses.map(({ lookUps, roles, when }) => {
      const conditions = when.flatMap(leavesOf);
      return {
        asked: [...lookUps, ...conditions.flatMap((condition) => condition.lookUps)].map(({ spec }) => spec),
        roles: [...roles, ...conditions.flatMap((condition) => condition.roles)],
      };
    });
    const reading = all.map(({ asked, roles }) => ({ asked: asked.filter(({ columns }) => columns.length > 0), roles }));
    const stored = new Map(
      reading.flatMap(({ asked, roles }) => this.#stored(situation, asked, roles)).map((each) => [each.collection, each.found]),
    );
    return { submission, given, stored: [...stored].map(([collection, row]) => ({ collection, row })) };
  }

  #collections(): DescribedCollection[] {
    const needs = new Map(needsOf([this.#plan]).map((need) => [need.collection, need]));
    return this.#plan.collections.map(({ name, key }) => {
      const need = needs.get(name);
      return { name, key, columns: need?.columns ?? [], unique: (need?.unique ?? []).map(({ columns }) => columns) };
    });
  }
}

/** A raw value as its kind reads it, for sentences that depend on it. */
function typed({ step }: RolePlan, raw: unknown): unknown {
  if (step.sort.isMade || raw === undefined) return raw;
  const value = step.kind.json(raw);
  return value === UNREADABLE ? raw : value;
}

/** Characters of a value that are shown. */
const MOST_SHOWN = 60;

/** A role, or the field of a value rule. */
type Shown = Pick<RolePlan, 'place'> & Partial<Pick<RolePlan, 'name' | 'isGiven'>>;

function withInner(spec: LookUpSpec): LookUpSpec[] {
  return [spec, ...Object.values(spec.inner).flatMap(withInner)];
}
