import { type KindSpec, UNREADABLE } from '../core/declared/kind.ts';
import type { Definition, Takes } from '../core/declared/rule.ts';
import { isIntake, planOf } from '../core/intake.ts';
import { leavesOf } from '../core/plan/leaves.ts';
import type { ConditionPlan, FieldStep, LookUpPlan, Plan, UsePlan, ValueCheck } from '../core/plan/plan.ts';
import { walkSteps } from '../core/plan/walk.ts';
import { lookUpNamed, movedLookUps, movedTakes } from './moved.ts';
import { casesOf } from './prove.ts';
import type { Subject } from './subject.ts';

/** A rule that was changed by way of trial. */
export interface TriedChange {
  /** What was changed, in words. */
  readonly what: string;
  /** Some sample or submission came out otherwise. */
  readonly isNoticed: boolean;
}

/** One change of a plan, and how to take it back. */
interface Change {
  readonly what: string;
  make(): () => void;
}

/**
 * Changes the rules of a subject one at a time (drops a rule or a condition, moves a parameter by one, swaps a comparison), runs its samples
 * and submissions against each, and tells which changes none of them notices. Everything is as it was afterwards.
 */
export async function triedChanges(subject: Subject): Promise<TriedChange[]> {
  if ('rule' in subject)
    return triedOn(subject, comparisonsOf((subject.rule as unknown as { readonly definition: Definition }).definition));
  if (!isIntake(subject.intake)) return [];
  const plan = planOf(subject.intake);
  const { when } = plan.busy;
  // Code that is written would not see a change.
  const code = plan.busy.code;
  Object.assign(plan.busy, { when: 'never', code: undefined });
  try {
    return await triedOn(subject, changesOf(plan));
  } finally {
    Object.assign(plan.busy, { when, code });
  }
}

async function triedOn(subject: Subject, changes: readonly Change[]): Promise<TriedChange[]> {
  const tried: TriedChange[] = [];
  for (const { what, make } of changes) {
    const undo = make();
    try {
      tried.push({ what, isNoticed: await isNoticed(subject) });
    } finally {
      undo();
    }
  }
  return tried;
}

async function isNoticed(subject: Subject): Promise<boolean> {
  for (const { run } of casesOf(subject)) {
    const problem = await run().catch((cause: unknown) => String(cause));
    if (problem !== undefined) return true;
  }
  return false;
}

function changesOf(plan: Plan): Change[] {
  const changes: Change[] = [];
  for (const part of [plan.fields, plan.given])
    walkSteps(part, (step) => changes.push(...step.checks.flatMap((check) => ofCheck(step, check)), ...ofField(step)));
  const names = plan.uses.map(({ use }) => use);
  for (const [at, use] of plan.uses.entries()) {
    // Two uses with the same words, under two conditions, are told apart by their places.
    const isAlone = names.indexOf(use.use) === names.lastIndexOf(use.use);
    changes.push(...ofUse(plan, use, isAlone ? use.use : `${use.use} (rule ${at + 1})`));
  }
  const definitions = new Set(
    plan.uses.flatMap(({ definition, when }) => [definition, ...when.flatMap(leavesOf).map((leaf) => leaf.definition)]),
  );
  for (const definition of definitions) changes.push(...comparisonsOf(definition));
  return changes;
}

/** Puts something in the place of a property until it is taken back. */
function replacing<T extends object, N extends keyof T>(target: T, name: N, value: T[N]): () => () => void {
  return () => {
    const kept = target[name];
    target[name] = value;
    return () => {
      target[name] = kept;
    };
  };
}

function ofCheck(step: FieldStep, check: ValueCheck): Change[] {
  return [
    {
      what: `${check.use} is dropped`,
      make: replacing(
        step as { checks: readonly ValueCheck[] },
        'checks',
        step.checks.filter((other) => other !== check),
      ),
    },
    ...movedTakes(check.takes, step.kind.around).map(({ told, value }) => ({
      what: `${check.use}: ${told}`,
      make: replacing(check as { takes: Takes }, 'takes', value),
    })),
  ];
}

/** The options and the default of a field. */
function ofField(step: FieldStep): Change[] {
  const { kind, place, filledBy } = step;
  const target = step as { kind: KindSpec; filledBy: FieldStep['filledBy'] };
  const { options = [] } = step.sort.isMade ? {} : (kind.facts ?? {});
  const without = (option: unknown): KindSpec => ({
    ...kind,
    json: (raw) => (raw === option ? UNREADABLE : kind.json(raw)),
    form: (text) => (kind.form(text) === option ? UNREADABLE : kind.form(text)),
  });
  return [
    ...options.map((option) => ({ what: `${place.path} without its option ${option}`, make: replacing(target, 'kind', without(option)) })),
    ...(filledBy && !step.isLeftOut ? [{ what: `${place.path} without its default`, make: replacing(target, 'filledBy', undefined) }] : []),
  ];
}

type Steps = { uses: readonly UsePlan[]; between: readonly UsePlan[]; record: readonly UsePlan[]; outside: readonly UsePlan[] };

function ofUse(plan: Plan, use: UsePlan, name: string): Change[] {
  const dropped = () => {
    const steps = plan as unknown as Steps;
    const names = ['uses', 'between', 'record', 'outside'] as const;
    const kept = names.map((name) => steps[name]);
    for (const name of names) steps[name] = steps[name].filter((other) => other !== use);
    return () => {
      for (const [at, name] of names.entries()) steps[name] = kept[at] as readonly UsePlan[];
    };
  };
  const target = use as { when: readonly ConditionPlan[]; takes: Takes; lookUps: readonly LookUpPlan[] };
  const lookUps = use.lookUps.flatMap(({ name: called, spec }, at) =>
    movedLookUps(lookUpNamed(called, spec.collection), spec).map(({ told, value }) => ({
      what: `${name}: ${told}`,
      make: replacing(
        target,
        'lookUps',
        use.lookUps.map((lookUp, index) => (index === at ? { ...lookUp, spec: value } : lookUp)),
      ),
    })),
  );
  return [
    { what: `${name} is dropped`, make: dropped },
    ...use.when.map((condition, at) => ({
      what: `${name} without ${use.when.length === 1 ? 'its condition' : `its condition ${at + 1}`}`,
      make: replacing(
        target,
        'when',
        use.when.filter((other) => other !== condition),
      ),
    })),
    ...movedTakes(use.takes).map(({ told, value }) => ({ what: `${name}: ${told}`, make: replacing(target, 'takes', value) })),
    ...lookUps,
  ];
}

/** Comparisons and connections, and what each is swapped for. */
const SWAPPED: { readonly [operator: string]: string } = {
  '<=': '<',
  '>=': '>',
  '<': '<=',
  '>': '>=',
  '===': '!==',
  '!==': '===',
  '==': '!=',
  '!=': '==',
  '&&': '||',
  '||': '&&',
};
// Texts and arrows are left alone.
const TOKENS = /'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"|`(?:[^`\\]|\\.)*`|=>|<=|>=|===|!==|==|!=|&&|\|\||<|>/g;

/**
 * The code of a rule with one comparison swapped. Only code that needs nothing of its module can be written again: of other rules the
 * parameters and conditions are changed.
 */
function comparisonsOf(definition: Definition): Change[] {
  if (definition.isOurs) return [];
  const { written = definition.run } = definition;
  const text = String(written);
  const operators = [...text.matchAll(TOKENS)].filter(([token]) => SWAPPED[token] !== undefined);
  if (operators.length === 0 || !needsNothing(text)) return [];
  return operators.flatMap(({ 0: operator, index }) => {
    const swapped = SWAPPED[operator] as string;
    const changed = functionOf(`${text.slice(0, index)}${swapped}${text.slice(index + operator.length)}`);
    if (!changed) return [];
    // A condition is called without parameters.
    const run = definition.written ? (read: never, found: never, _takes: never, at: never) => changed(read, found, at) : changed;
    const around = text
      .slice(Math.max(0, index - 25), index + operator.length + 25)
      .replaceAll(/\s+/g, ' ')
      .trim();
    return [
      { what: `${definition.id}: ${operator} becomes ${swapped} in "${around}"`, make: () => swap(definition, run as Definition['run']) },
    ];
  });
}

function swap(definition: Definition, run: Definition['run']): () => void {
  const target = definition as { run: Definition['run']; check?: Definition['check'] };
  const kept = { run: target.run, check: target.check };
  target.run = run;
  if (kept.check) target.check = (value, takes, at) => run({ field: value }, {}, takes, at);
  return () => {
    target.run = kept.run;
    if (kept.check) target.check = kept.check;
  };
}

type Written = (...all: never[]) => unknown;

function functionOf(text: string): Written | undefined {
  // A method is a function once the word stands before it.
  for (const source of [`(${text})`, `(function ${text})`, `(async function ${text.replace(/^async\s+/, '')})`]) {
    try {
      return new Function(`"use strict"; return ${source}`)() as Written;
    } catch {
      // Written in another way.
    }
  }
  return undefined;
}

/** Names that every module has. */
const KNOWN = new Set([
  'Math',
  'Number',
  'String',
  'Object',
  'Array',
  'Date',
  'JSON',
  'Set',
  'Map',
  'RegExp',
  'Boolean',
  'undefined',
  'NaN',
  'Infinity',
]);

/** Whether code uses no name but its own and those that every module has. */
function needsNothing(text: string): boolean {
  if (!functionOf(text)) return false;
  const names = new Set(
    text.replaceAll(TOKENS, (token) => (token.length > 2 ? ' ' : token)).match(/(?<![.\w$])[A-Za-z_$][\w$]*(?!\s*:)/g) ?? [],
  );
  const own = new Set([
    ...parametersOf(text),
    ...(text.match(/(?<=\b(?:const|let|var|function)\s+)[A-Za-z_$][\w$]*/g) ?? []),
    ...(text.match(/(?<=[({,]\s*)[A-Za-z_$][\w$]*(?=\s*(?:,[^)]*)?\)\s*=>)/g) ?? []),
  ]);
  return [...names].every((name) => own.has(name) || KNOWN.has(name) || WORDS.has(name));
}

const WORDS = new Set(
  'return if else for of in const let var function typeof new true false null undefined this async await instanceof void delete throw try catch finally while do switch case default break continue holds failing asks'.split(
    ' ',
  ),
);

/** The names in the parameters of a function, those taken out of objects among them. */
function parametersOf(text: string): string[] {
  const begin = text.indexOf('(');
  let depth = 0;
  for (let at = begin; at >= 0 && at < text.length; at++) {
    if (text[at] === '(') depth++;
    if (text[at] === ')' && --depth === 0) return text.slice(begin, at).match(/[A-Za-z_$][\w$]*/g) ?? [];
  }
  return text.match(/^[A-Za-z_$][\w$]*/) ?? [];
}
