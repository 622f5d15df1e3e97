import type { Definition } from '../core/declared/rule.ts';
import { planOf } from '../core/intake.ts';
import { inspectPlan, type Json } from '../core/plan/inspect.ts';
import { leavesOf } from '../core/plan/leaves.ts';
import type { FieldStep, Plan } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';

/** One thing that can change by itself: a field, a use of a rule, or something of the intake as a whole. */
export interface Part {
  readonly sort: 'field' | 'rule' | 'intake';
  /** The path of a field, or the name of a use. */
  readonly name: string;
  /** What it judges. */
  readonly judged: { readonly [name: string]: Json };
  /** What it says: labels and messages. */
  readonly said: Json;
  /** The code that the application has written for it. */
  readonly code: string;
}

type Members = { readonly [name: string]: Json };

/** An intake taken apart. */
export function partsOf(intake: { readonly name: string }): Map<string, Part> {
  const plan = planOf(intake);
  const inspected = inspectPlan(plan);
  const parts = new Map<string, Part>();
  const add = (part: Part) => parts.set(`${part.sort} ${part.name}`, part);
  const steps = stepsOf(plan);
  const checks = new Map([...steps.values()].flatMap((step) => step.checks.map((check) => [check.use, check.definition] as const)));
  for (const field of [...fieldsIn(inspected.fields), ...fieldsIn(inspected.given)]) {
    const {
      path,
      label,
      rules = [],
      fields: _fields,
      item: _item,
      each: _each,
      shapes,
      ...judged
    } = field as Members & { readonly path: string };
    const names = shapes && typeof shapes === 'object' ? { shapes: Object.keys(shapes) } : {};
    add({ sort: 'field', name: path, judged: { ...judged, ...names }, said: label ?? null, code: codeOfField(steps.get(path)) });
    for (const rule of rules as readonly Members[]) add(ruleOf(rule, codeOf(checks.get(String(rule.use)))));
  }
  const uses = new Map(plan.uses.map((use) => [use.use, use]));
  for (const rule of (inspected.rules ?? []) as readonly Members[]) {
    const use = uses.get(String(rule.use));
    const conditions = (use?.when ?? []).flatMap(leavesOf).map(({ definition }) => codeOf(definition));
    add(ruleOf(rule, [codeOf(use?.definition), ...conditions].join('\n')));
  }
  const { name: _name, fields: _f, given: _g, rules: _r, collections = [], ...whole } = inspected;
  add({ sort: 'intake', name: plan.name, judged: { ...whole, collections }, said: null, code: '' });
  return parts;
}

function ruleOf({ messages = null, use, ...judged }: Members, code: string): Part {
  return { sort: 'rule', name: String(use), judged, said: messages, code };
}

function stepsOf(plan: Plan): Map<string, FieldStep> {
  const steps = new Map<string, FieldStep>();
  for (const part of [plan.fields, plan.given]) walkSteps(part, (step) => steps.set(step.place.path, step));
  return steps;
}

/** Every field of a list of fields, those inside others too. */
function fieldsIn(fields: Json | undefined): Members[] {
  if (!Array.isArray(fields)) return [];
  return (fields as readonly Members[]).flatMap((field) => [
    field,
    ...fieldsIn(field.fields),
    ...fieldsIn(field.item === undefined ? undefined : [field.item]),
    ...fieldsIn(field.each === undefined ? undefined : [field.each]),
    ...Object.values((field.shapes ?? {}) as { readonly [name: string]: Json }).flatMap(fieldsIn),
  ]);
}

/** The application's own code of a rule; of a ready-made one its parameters say everything. */
function codeOf(definition: Definition | undefined): string {
  if (!definition || definition.isOurs) return '';
  const { run, written = run, facts } = definition;
  return [written, facts].map(String).join('\n');
}

function codeOfField(step: FieldStep | undefined): string {
  if (!step) return '';
  const filled = step.filledBy && 'call' in step.filledBy ? String(step.filledBy.call) : '';
  const cleans = step.cleans.map(({ name, apply, isOurs, written = apply }) => (isOurs ? name : String(written)));
  return [filled, ...cleans].join('\n');
}
