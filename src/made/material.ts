import type { Circumstances } from '../core/basics/verdict.ts';
import { bySort } from '../core/plan/by-sort.ts';
import type { FieldStep, FieldSteps, ListStep, Plan, ScalarStep } from '../core/plan/plan.ts';
import type { StoredRow } from '../core/stored/records.ts';
import type { Chance } from './chance.ts';
import { type Values, valuesFor } from './values.ts';

/** Values and rows that submissions are made of. */
export class Material {
  readonly plan: Plan;
  readonly at: Circumstances;
  readonly chance: Chance;
  readonly #values = new Map<ScalarStep, Values>();

  constructor(plan: Plan, at: Circumstances, chance: Chance) {
    this.plan = plan;
    this.at = at;
    this.chance = chance;
  }

  /** Values for a field. */
  valuesOf(step: ScalarStep): Values {
    const known = this.#values.get(step) ?? valuesFor(step, this.at, this.chance);
    this.#values.set(step, known);
    return known;
  }

  /** A value for a field, as its own rules accept it; lists and groups with what is in them. */
  valueOf(step: FieldStep): unknown {
    return bySort<unknown>(step, {
      scalar: (scalar) => this.valuesOf(scalar).good[0],
      group: ({ inner }) => this.objectOf(inner),
      list: (list) => this.entriesOf(list, this.#entriesOf(list)),
      table: (table) => this.entriesOf(table, this.#entriesOf(table)),
      shapes: ({ tag, shapes }) => {
        const [first] = [...shapes];
        return first ? { [tag]: first[0], ...this.objectOf(first[1]) } : {};
      },
    });
  }

  /** So many entries of a list or table. */
  entriesOf(step: ListStep, count: number, valueAt: (at: number) => unknown = () => this.valueOf(step.item)): unknown {
    const entries = Array.from({ length: count }, (_, at) => valueAt(at));
    const named = () => Object.fromEntries(entries.map((entry, at) => [`entry${at + 1}`, entry]));
    return step.sort.none && !Array.isArray(step.sort.none) ? named() : entries;
  }

  #entriesOf(step: ListStep): number {
    const sizes = step.checks.flatMap(({ definition, takes }) => definition.edges?.(takes, this.at)?.sizes ?? []);
    const counts = [1, 0, ...sizes].filter((size) => size <= 100);
    const accepts = (count: number) =>
      step.checks.every(
        ({ definition, takes }) => !definition.countsOnly || definition.check?.(new Array(count).fill(null), takes, this.at) === true,
      );
    return counts.find(accepts) ?? 1;
  }

  /** What has to be there, with values that the fields accept. */
  objectOf({ steps }: FieldSteps): { [key: string]: unknown } {
    const object: { [key: string]: unknown } = {};
    for (const step of steps) {
      const value = step.needed || step.sort.isOpen ? this.valueOf(step) : undefined;
      if (value !== undefined) object[step.key] = value;
    }
    return object;
  }

  /** Rows for the collections, of each what examples its columns' kinds give. */
  rowOf(collection: Plan['collections'][number], variant = 0): StoredRow {
    const today = this.at.today;
    return Object.fromEntries(
      Object.entries(collection.columns).map(([column, { spec }]) => {
        const examples = spec.examples?.(today) ?? [null];
        return [column, examples[variant % examples.length] ?? null];
      }),
    );
  }
}
