import { UNREADABLE } from '../../core/declared/kind.ts';
import type { FieldStep, FieldSteps, Plan } from '../../core/plan/plan.ts';

type Row = { readonly [column: string]: unknown };

/** How the columns of a table become the fields of an intake. */
export interface Mapping {
  /** The fields at the top that some column holds: the others were not loaded. */
  readonly loaded: ReadonlySet<string>;
  /** A row as a submission. */
  read(row: Row): { [key: string]: unknown };
}

/** A column has the name of a field; a group is in columns with its name in front (`skipper_email`), or in one that holds JSON. */
export function mappingOf(plan: Plan, columns: readonly string[]): Mapping {
  const there = new Set(columns);
  const loaded = new Set(plan.fields.steps.filter((step) => isThere(step, step.key, there)).map(({ key }) => key));
  return {
    loaded,
    read: (row) => objectOf(plan.fields, '', row, there) as { [key: string]: unknown },
  };
}

function isThere(step: FieldStep, name: string, columns: ReadonlySet<string>): boolean {
  if (columns.has(name)) return true;
  return step.sort.isOpen && insideOf(step).some((inner) => isThere(inner, `${name}_${inner.key}`, columns));
}

function insideOf(step: FieldStep): FieldStep[] {
  return step.inside.flatMap(({ steps }) => steps);
}

function objectOf({ steps }: Pick<FieldSteps, 'steps'>, prefix: string, row: Row, columns: ReadonlySet<string>): object | undefined {
  const object: { [key: string]: unknown } = {};
  for (const step of steps) {
    const name = `${prefix}${step.key}`;
    const value = columns.has(name)
      ? storedOf(step, row[name])
      : step.sort.isOpen
        ? objectOf({ steps: insideOf(step) }, `${name}_`, row, columns)
        : undefined;
    if (value !== undefined) object[step.key] = value;
  }
  return Object.keys(object).length === 0 && prefix !== '' ? undefined : object;
}

/** What a driver gives for a column, as JSON has it. What the kind cannot read stays as it is, so that the rule says so. */
function storedOf(step: FieldStep, raw: unknown): unknown {
  if (raw === null || raw === undefined) return undefined;
  if (!step.sort.isMade && !step.kind.isObject) {
    const value = step.kind.stored(raw);
    return value === UNREADABLE ? raw : value;
  }
  if (typeof raw !== 'string') return raw;
  try {
    return JSON.parse(raw);
  } catch {
    return raw;
  }
}
