import type { StoredAs } from '../core/declared/kind.ts';
import { schemaOf } from '../core/declared/schema-of.ts';
import { planOf } from '../core/intake.ts';
import { needsOf } from '../core/plan/needs.ts';
import type { FieldStep, FieldSteps, Plan, ScalarStep } from '../core/plan/plan.ts';
import { walkStep } from '../core/plan/walk.ts';
import type { Writing } from '../records/sql/tables/writing.ts';
import { type SqlDialect, WRITINGS } from '../records/sql/writings.ts';

export type { SqlDialect };

/** A `create table` statement, and what of the intake it does not hold. */
export interface ToldTable {
  readonly statement: string;
  readonly unsaid: readonly { readonly place: string; readonly use: string; readonly why: string }[];
}

/** A table for what an intake accepts, with the constraints that its rules imply. Groups become columns with their names in front. */
export function sqlTableOf(intake: { readonly name: string }, dialect: SqlDialect): ToldTable {
  return new Table(planOf(intake), WRITINGS[dialect]).write();
}

class Table {
  readonly #plan: Plan;
  readonly #sql: Writing;
  readonly #lines: string[] = [];
  readonly #unsaid: { place: string; use: string; why: string }[] = [];
  readonly #columns = new Map<string, ScalarStep>();

  constructor(plan: Plan, sql: Writing) {
    this.#plan = plan;
    this.#sql = sql;
  }

  write(): ToldTable {
    const { storedIn, fields } = this.#plan;
    const table = storedIn?.name ?? this.#plan.name.replaceAll(/\W+/g, '_');
    const key = storedIn?.key ?? ['id'];
    this.#fields(fields, '', true);
    const made = key
      .filter((column) => !this.#columns.has(column))
      .map((column) => this.#keyColumn(column, storedIn ? storedIn.columns[column]?.spec.storedAs : 'integer'));
    const lines = [
      ...made,
      ...this.#lines,
      `primary key (${key.map((column) => this.#quote(column)).join(', ')})`,
      ...this.#constraints(table),
    ];
    return { statement: `create table ${this.#quote(table)} (\n  ${lines.join(',\n  ')}\n);\n`, unsaid: this.#unsaid };
  }

  #keyColumn(column: string, storedAs: StoredAs = 'text'): string {
    return `${this.#quote(column)} ${storedAs === 'integer' ? this.#sql.counted : `${this.#typeOf(storedAs)} not null`}`;
  }

  /** @param isThere what the fields stand in is there in every row */
  #fields({ steps }: Pick<FieldSteps, 'steps'>, prefix: string, isThere: boolean): void {
    for (const step of steps) {
      if (step.isLeftOut) {
        this.#leaveAll(step, 'it is judged, and not kept');
        continue;
      }
      const name = `${prefix}${step.key}`;
      const isAlways = isThere && (step.needed || step.filledBy !== undefined) && !step.nullAllowed;
      if (step.sort.isOpen) for (const inside of step.inside) this.#fields(inside, `${name}_`, isAlways);
      else if (step.kind.storedAs) this.#column(step, step.kind.storedAs, name, isAlways);
      else this.#leaveAll(step, step.sort.isMade ? 'its entries belong into a table of their own' : 'a file is kept elsewhere');
    }
  }

  /** A field that is no column, with all its rules and what is inside. */
  #leaveAll(step: FieldStep, why: string): void {
    this.#leave(step, `readable@${step.place.path}`, why);
    walkStep(step, (each) => {
      for (const { use } of each.checks) this.#leave(each, use, why);
    });
  }

  #column(step: ScalarStep, storedAs: StoredAs, name: string, isAlways: boolean): void {
    this.#columns.set(name, step);
    const column = this.#quote(name);
    const limits = step.place.isSecret ? {} : this.#limits(step);
    const precise = step.checks.find(({ rule }) => rule === 'precision')?.takes as
      | { readonly whole: number; readonly places: number }
      | undefined;
    const type =
      precise && storedAs === 'numeric'
        ? this.#sql.precise(precise.whole, precise.places)
        : this.#typeOf(storedAs, limits.maxLength as number | undefined);
    if (step.place.isSecret) {
      // Limits are of the secret itself, which is not what is kept.
      this.#lines.push(
        `-- a secret: keep what a function for passwords makes of it\n  ${column} ${this.#typeOf('text')}${isAlways ? ' not null' : ''}`,
      );
      for (const { use } of step.checks) this.#leave(step, use, 'what is kept of a secret is not the secret');
      return;
    }
    const { filledBy } = step;
    const filled = filledBy && 'value' in filledBy ? ` default ${this.#sql.literal(filledBy.value)}` : '';
    const checks = this.#checksOf(step, column, limits);
    this.#lines.push(
      `${column} ${type}${isAlways ? ' not null' : ''}${filled}${checks.length > 0 ? ` check (${checks.join(' and ')})` : ''}`,
    );
  }

  /** The keywords that a field's rules say, since a constraint can say the same. */
  #limits(step: ScalarStep): { readonly [keyword: string]: unknown } {
    const limits: { [keyword: string]: unknown } = {};
    for (const check of step.checks) {
      const { definition, takes, severity, isTrial, on, use } = check;
      if (severity !== 'error' || isTrial) continue;
      const said = on ? undefined : schemaOf(definition, takes, step.kind);
      const keywords = Object.entries(said?.schema ?? {}).filter(([keyword]) => SAYABLE.has(keyword));
      if (keywords.length === 0 || said?.leavesOut !== undefined) this.#leave(step, use, 'a constraint does not say it');
      for (const [keyword, value] of keywords) limits[keyword] = narrower(keyword, limits[keyword], value);
    }
    return limits;
  }

  #checksOf(step: ScalarStep, column: string, limits: { readonly [keyword: string]: unknown }): string[] {
    const { length } = this.#sql;
    const options = step.kind.facts?.options ?? (limits.enum as readonly unknown[] | undefined);
    const n = (keyword: string) => limits[keyword] as number | undefined;
    const isSized = isText(step.kind.storedAs) && this.#sql.text(n('maxLength')).keepsLength;
    return [
      ...(options
        ? [`${column} in (${options.map((option) => this.#sql.literal(isText(step.kind.storedAs) ? String(option) : option)).join(', ')})`]
        : []),
      ...(n('minimum') !== undefined ? [`${column} >= ${n('minimum')}`] : []),
      ...(n('exclusiveMinimum') !== undefined ? [`${column} > ${n('exclusiveMinimum')}`] : []),
      ...(n('maximum') !== undefined ? [`${column} <= ${n('maximum')}`] : []),
      ...(n('exclusiveMaximum') !== undefined ? [`${column} < ${n('exclusiveMaximum')}`] : []),
      ...(n('minLength') !== undefined ? [`${length}(${column}) >= ${n('minLength')}`] : []),
      ...(n('maxLength') !== undefined && !isSized ? [`${length}(${column}) <= ${n('maxLength')}`] : []),
      ...(limits.const !== undefined ? [`${column} = ${this.#sql.literal(limits.const)}`] : []),
    ];
  }

  /** What rules about stored records need: keys that are unique, and references. */
  #constraints(table: string): string[] {
    const need = needsOf([this.#plan]).find(({ collection }) => collection === this.#plan.storedIn?.name);
    const list = (columns: readonly string[]) => `(${columns.map((column) => this.#quote(column)).join(', ')})`;
    const uniques = (need?.unique ?? []).flatMap(({ columns, ignoringCase, only, constraint }) => {
      const isPlain = ignoringCase.length === 0 && Object.keys(only).length === 0 && columns.every((column) => this.#columns.has(column));
      if (!isPlain) {
        this.#unsaid.push({
          place: columns.join(', '),
          use: 'unique',
          why: 'it needs an index of its own; checkStore tells its statement',
        });
        return [];
      }
      return [`constraint ${this.#quote(constraint ?? `${table}_${columns.join('_')}_key`)} unique ${list(columns)}`];
    });
    const references = (need?.known ?? [])
      .filter(({ fields }) => fields.every((field) => this.#columns.has(field)))
      .map(
        ({ fields, refersTo, referred }) =>
          `constraint ${this.#quote(`${table}_${fields.join('_')}_known`)} foreign key ${list(fields)} references ${this.#quote(refersTo)} ${list(referred)}`,
      );
    for (const { columns } of need?.overlaps ?? [])
      this.#unsaid.push({
        place: columns.join(', '),
        use: 'no-overlap',
        why: 'it needs a constraint of its own; checkStore tells its statement',
      });
    const told = new Set(['unique', 'known']);
    for (const { use, rule, blamed } of this.#plan.uses)
      if (!told.has(rule)) this.#unsaid.push({ place: blamed[0]?.place.path ?? '', use, why: 'a constraint does not say it' });
    return [...uniques, ...references];
  }

  #leave(step: FieldStep, use: string, why: string): void {
    this.#unsaid.push({ place: step.place.path, use, why });
  }

  #typeOf(storedAs: StoredAs, most?: number): string {
    return isText(storedAs) ? this.#sql.text(most).type : this.#sql.types[storedAs];
  }

  #quote(name: string): string {
    return this.#sql.quote(name);
  }
}

/** A column of what the column alone tells is one of texts. */
function isText(storedAs: StoredAs = 'text'): storedAs is 'text' | 'any' {
  return storedAs === 'text' || storedAs === 'any';
}

/** Of two limits the one that leaves less. */
function narrower(keyword: string, one: unknown, other: unknown): unknown {
  if (typeof one === 'number' && typeof other === 'number')
    return /^(min|exclusiveMin)/.test(keyword) ? Math.max(one, other) : Math.min(one, other);
  return Array.isArray(one) && Array.isArray(other) ? one.filter((each) => other.includes(each)) : other;
}

const SAYABLE = new Set(['minimum', 'maximum', 'exclusiveMinimum', 'exclusiveMaximum', 'minLength', 'maxLength', 'enum', 'const']);
