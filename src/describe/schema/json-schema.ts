import { schemaOf as schemaOfRule } from '../../core/declared/schema-of.ts';
import type { JsonSchema, SchemaWords } from '../../core/declared/schema-words.ts';
import { planOf } from '../../core/intake.ts';
import { toldOf } from '../../core/kinds/told.ts';
import { textIn } from '../../core/messages/render.ts';
import { bySort } from '../../core/plan/by-sort.ts';
import { leavesOf } from '../../core/plan/leaves.ts';
import { ENTRY, type FieldStep, type FieldSteps, type Plan, type ShapesStep, type UsePlan, type ValueCheck } from '../../core/plan/plan.ts';
import { isNeededText } from '../../core/run/raw.ts';
import { combined, orNull } from './combine.ts';
import { conditionSchema } from './conditions.ts';
import type { Unsaid } from './unsaid.ts';

/** What a schema is of: what may be sent, a change (JSON Merge Patch, RFC 7396), or what is accepted and sent on. */
export type SchemaOf = 'received' | 'amended' | 'sent';

/** What a schema is of, and in which language its titles are. */
export interface SchemaOptions {
  /** Defaults to `received`. */
  readonly of?: SchemaOf;
  /** Defaults to the first of the intake's occasions; of a change to `amend`. */
  readonly occasion?: string;
  /** The language of titles. Defaults to `en`. */
  readonly locale?: string;
  /** Says the tag of shapes as OpenAPI does, too. Defaults to false. */
  readonly discriminators?: boolean;
}

/** A schema, and what it cannot say. */
export interface ToldSchema {
  readonly schema: JsonSchema;
  /** What the intake demands and the schema does not. */
  readonly unsaid: readonly Unsaid[];
}

export const DIALECT = 'https://json-schema.org/draft/2020-12/schema';

/**
 * An intake as JSON Schema (2020-12). It refuses nothing that the intake accepts, as long as it is sent as it is kept: what is absent is left
 * out, and not null; texts need no cleaning. What the intake refuses besides is listed.
 */
export function jsonSchemaOf(intake: { readonly name: string }, options: SchemaOptions = {}): ToldSchema {
  const { schema, unsaid } = new Writer(planOf(intake), options).write();
  return { schema: { $schema: DIALECT, title: intake.name, ...schema }, unsaid };
}

/** The same without saying which dialect it is in, for a document that says it once. */
export function innerSchemaOf(intake: { readonly name: string }, options: SchemaOptions = {}): ToldSchema {
  return new Writer(planOf(intake), options).write();
}

type Writable = { [keyword: string]: unknown };

class Writer {
  readonly #plan: Plan;
  readonly #of: SchemaOf;
  readonly #occasion: string;
  readonly #locale: string;
  readonly #discriminators: boolean;
  readonly #unsaid: Unsaid[] = [];

  constructor(plan: Plan, { of = 'received', occasion, locale = 'en', discriminators = false }: SchemaOptions) {
    this.#plan = plan;
    this.#of = of;
    this.#occasion = occasion ?? (of === 'amended' && plan.occasions.includes('amend') ? 'amend' : (plan.occasions[0] ?? ''));
    this.#locale = locale;
    this.#discriminators = discriminators;
  }

  write(): ToldSchema {
    const root = this.#object(this.#plan.fields, this.#of === 'amended');
    const wheres: JsonSchema[] = [];
    for (const use of this.#plan.uses) this.#between(use, root, wheres);
    return { schema: combined([root, ...wheres]), unsaid: this.#unsaid };
  }

  /** @param isPatch members may be missing, and `null` takes one away */
  #object({ steps }: FieldSteps, isPatch: boolean): Writable {
    const shown = this.#of === 'sent' ? steps.filter(({ isLeftOut }) => !isLeftOut) : steps;
    const properties = Object.fromEntries(shown.map((step) => [step.key, this.#member(step, isPatch)]));
    const required = isPatch ? [] : shown.filter((step) => this.#isThere(step)).map(({ key }) => key);
    const isClosed = this.#of === 'sent' || this.#plan.refuseStrangers;
    return { type: 'object', properties, ...(required.length > 0 && { required }), ...(isClosed && { additionalProperties: false }) };
  }

  #isThere({ needed, filledBy, kind }: FieldStep): boolean {
    if (this.#of === 'sent') return needed || filledBy !== undefined;
    // A file does not come in JSON; where it does, it is needed there.
    return needed && filledBy === undefined && !toldOf(kind)?.isPart;
  }

  #member(step: FieldStep, isPatch: boolean): JsonSchema {
    const { place, filledBy, isLeftOut, nullAllowed, needed } = step;
    const filled =
      filledBy &&
      !place.isSecret &&
      ('value' in filledBy ? { default: filledBy.value } : 'empty' in filledBy ? { default: [] } : undefined);
    const told = {
      title: textIn(place.label, this.#locale),
      ...this.#value(step, isPatch),
      ...(filled && this.#of !== 'amended' && filled),
      ...((place.isSecret || isLeftOut) && { writeOnly: true }),
    };
    const isRemovable = isPatch && !needed;
    return nullAllowed || isRemovable ? orNull(told) : told;
  }

  #value(step: FieldStep, isPatch: boolean): JsonSchema {
    return bySort<JsonSchema>(step, {
      group: ({ inner }) => this.#object(inner, isPatch),
      // A list is replaced as a whole: what is in it is no patch.
      list: ({ item, most, checks }) => {
        const items = this.#member(item, false);
        return { type: 'array', items, ...combined([{ maxItems: most }, ...this.#checked(step, checks)]) };
      },
      table: ({ item, most, checks }) => {
        const additionalProperties = this.#member(item, false);
        return { type: 'object', additionalProperties, ...combined([{ maxProperties: most }, ...this.#checked(step, checks)]) };
      },
      shapes: (shapes) => this.#shapes(shapes, isPatch),
      scalar: (step) => {
        const kind: SchemaWords = step.kind.schema ?? { schema: {}, leavesOut: 'all of it' };
        if (kind.leavesOut !== undefined) this.#leave(step, 'readable', kind.leavesOut);
        const checked = this.#checked(step, step.checks);
        // Where an expression refuses blanks by itself, nothing more is said.
        const blank =
          isNeededText(step) && !checked.some(({ pattern }) => typeof pattern === 'string' && refusesBlank(pattern))
            ? [{ pattern: '\\S' }]
            : [];
        if (isNeededText(step) && step.cleans.length > 0) this.#leave(step, 'blank', `texts that are changed first: ${cleansOf(step)}`);
        return combined([kind.schema, ...checked, ...blank]);
      },
    });
  }

  #shapes(step: ShapesStep, isPatch: boolean): JsonSchema {
    if (isPatch) {
      this.#leave(step, 'tag', 'which shape it is: a change is judged with what is stored');
      return { type: 'object' };
    }
    const oneOf = [...step.shapes].map(([name, fields]) => {
      const { properties, required = [], ...rest } = this.#object(fields, false);
      return {
        ...rest,
        properties: { [step.tag]: { const: name }, ...(properties as object) },
        required: [step.tag, ...(required as string[])],
      };
    });
    return { type: 'object', required: [step.tag], oneOf, ...(this.#discriminators && { discriminator: { propertyName: step.tag } }) };
  }

  /** What the rules of a field demand, as far as it can be said. */
  #checked(step: FieldStep, checks: readonly ValueCheck[]): JsonSchema[] {
    return checks.flatMap((check) => {
      if (check.severity !== 'error' || check.isTrial || (check.on && !check.on.includes(this.#occasion))) return [];
      const said = schemaOfRule(check.definition, check.takes, step.kind);
      if (!said) {
        this.#leave(step, check, 'no keyword says it');
        return [];
      }
      // A text is described as it is kept: what cleaning would change is judged otherwise.
      const isRewritten = this.#of !== 'sent' && step.cleans.length > 0;
      if (isRewritten) this.#leave(step, check, `texts that are changed first: ${cleansOf(step)}`);
      if (said.leavesOut !== undefined) this.#leave(step, check, said.leavesOut);
      return [said.schema];
    });
  }

  #leave({ place }: FieldStep, what: ValueCheck | string, why: string): void {
    const rule = typeof what === 'string' ? what : what.rule;
    this.#unsaid.push({ place: place.path, rule, use: typeof what === 'string' ? `${what}@${place.path}` : what.use, why });
  }

  /** A rule between fields: in the object where its fields stand, or with its conditions at the top. */
  #between(use: UsePlan, root: Writable, wheres: JsonSchema[]): void {
    if (use.severity !== 'error' || use.isTrial || (use.on && !use.on.includes(this.#occasion))) return;
    const why = this.#said(use, root, wheres);
    if (why !== undefined) this.#unsaid.push({ place: use.blamed[0]?.place.path ?? '', rule: use.rule, use: use.use, why });
  }

  /** Why a rule cannot be said; `undefined` where it was. */
  #said(use: UsePlan, root: Writable, wheres: JsonSchema[]): string | undefined {
    const { definition, roles, takes, when, phase } = use;
    if (phase === 'record') return 'it asks what is stored';
    if (phase === 'outside') return 'it asks something outside';
    const lookUp = when.flatMap(leavesOf).find(({ lookUps }) => lookUps.length > 0);
    if (lookUp) return 'its condition asks what is stored';
    if (!definition.schemaBetween) return 'no keyword says it';
    if (this.#of === 'amended') return 'a change is judged with what is stored';
    const conditions = when.map((condition) => conditionSchema(condition, true, this.#occasion));
    if (conditions.some((condition) => condition === undefined)) return 'no keyword says its condition';
    if (conditions.includes(false)) return undefined;
    if (this.#of === 'sent' && roles.some(({ step }) => step.isLeftOut)) return undefined;
    if (roles.some(({ isGiven, isStored, holders }) => isGiven || isStored || holders.some(({ shape }) => shape !== undefined)))
      return 'its fields do not all stand in one object';
    if (roles.some(({ step }) => step.nullAllowed || step.filledBy !== undefined))
      return 'whether a field is there shows only once it is judged';
    const parents = new Set(roles.map(({ place }) => JSON.stringify(place.segments.slice(0, -1).map(segmentText))));
    const [first] = roles;
    if (parents.size !== 1 || !first) return 'its fields do not all stand in one object';
    const schema = definition.schemaBetween(
      Object.fromEntries(roles.map(({ name, place }) => [name, place.segments.at(-1) as string])),
      takes,
    );
    const path = first.place.segments.slice(0, -1);
    const asked = conditions.filter((condition) => condition !== true) as JsonSchema[];
    if (asked.length === 0) return put(root, path, schema) ? undefined : 'its fields do not all stand in one object';
    if (path.includes(ENTRY)) return 'its condition stands outside the entry';
    const there = path.reduceRight<JsonSchema>((inner, key) => ({ properties: { [key as string]: inner } }), schema);
    // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
    wheres.push({ allOf: [{ if: asked.length === 1 ? asked[0] : { allOf: asked }, then: there }] });
    return undefined;
  }
}

function cleansOf(step: FieldStep): string {
  return step.cleans.map(({ name }) => name).join(', ');
}

function refusesBlank(pattern: string): boolean {
  const expression = new RegExp(pattern, 'u');
  return ['', ' ', '\t', '\u00a0', '   '].every((blank) => !expression.test(blank)) && pattern.startsWith('^');
}

function segmentText(segment: string | typeof ENTRY): string {
  return segment === ENTRY ? '*' : segment;
}

/** Adds to the schema of the object at a path. */
function put(root: Writable, path: readonly (string | typeof ENTRY)[], schema: JsonSchema): boolean {
  let node: Writable | undefined = root;
  for (const segment of path) {
    const inside: unknown =
      segment === ENTRY ? (node?.items ?? node?.additionalProperties) : (node?.properties as Writable | undefined)?.[segment];
    if (typeof inside !== 'object' || inside === null) return false;
    node = inside as Writable;
  }
  if (node?.type !== 'object') return false;
  Object.assign(node, combined([node, schema]));
  return true;
}
