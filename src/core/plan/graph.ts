import type { LookUpSpec } from '../declared/look-up.ts';
import { leavesOf } from './leaves.ts';
import type { LookUpPlan, Plan, RolePlan, UsePlan } from './plan.ts';
import { walkSteps } from './walk.ts';

/** One use of a rule, and what it has to do with: the declared paths of fields, and the names of collections. */
export interface GraphRule {
  /** The name of the use. */
  readonly use: string;
  readonly rule: string;
  readonly step: 'value' | 'between' | 'record' | 'outside';
  /** The fields that it reads, those of its conditions among them. */
  readonly reads: readonly string[];
  readonly blames: readonly string[];
  readonly asks: readonly string[];
}

/** An intake's rules, fields and collections as data. */
export interface Graph {
  readonly name: string;
  readonly fields: readonly { readonly path: string; readonly kind: string; readonly isGiven: boolean }[];
  readonly collections: readonly string[];
  readonly rules: readonly GraphRule[];
}

/** Draws the plan: what reads what. */
export function graphOf(plan: Plan): Graph {
  const fields: { path: string; kind: string; isGiven: boolean }[] = [];
  const rules: GraphRule[] = [];
  for (const part of [plan.fields, plan.given]) {
    walkSteps(part, (step) => {
      const { path } = step.place;
      fields.push({ path, kind: step.kind.name, isGiven: part === plan.given });
      for (const { use, rule } of step.checks) rules.push({ use, rule, step: 'value', reads: [path], blames: [path], asks: [] });
    });
  }
  for (const use of plan.uses) rules.push(ruleOf(use));
  return { name: plan.name, fields, collections: plan.collections.map(({ name }) => name), rules };
}

function ruleOf(use: UsePlan): GraphRule {
  const conditions = use.when.flatMap(leavesOf);
  return {
    use: use.use,
    rule: use.rule,
    step: use.phase,
    reads: unique([...use.roles, ...conditions.flatMap(({ roles }) => roles)].flatMap(pathsOf)),
    blames: unique(use.blamed.flatMap(pathsOf)),
    asks: unique([...use.lookUps, ...use.tells, ...conditions.flatMap(({ lookUps }) => lookUps)].flatMap(collectionsOf)),
  };
}

function pathsOf(role: RolePlan): string[] {
  return role.entry ? role.entry.roles.map(({ place }) => place.path) : [role.place.path];
}

function collectionsOf({ spec }: LookUpPlan): string[] {
  const inside = (lookUp: LookUpSpec): string[] => [lookUp.collection.name, ...Object.values(lookUp.inner).flatMap(inside)];
  return inside(spec);
}

function unique(names: readonly string[]): string[] {
  return [...new Set(names)];
}

/** The rules between fields, against records and outside as a Mermaid flowchart: fields lead to rules, rules to collections. */
export function asMermaid({ fields, rules, collections }: Graph): string {
  const drawn = rules.filter(({ step }) => step !== 'value');
  const used = new Set(drawn.flatMap(({ reads }) => reads));
  const id = (sort: string, names: readonly string[], name: string) => `${sort}${names.indexOf(name)}`;
  const paths = fields.map(({ path }) => path);
  const quoted = (text: string) => `"${text.replaceAll('"', '#quot;')}"`;
  return [
    'flowchart LR',
    ...paths.filter((path) => used.has(path)).map((path) => `  ${id('f', paths, path)}[${quoted(path)}]`),
    ...drawn.map(({ use }, index) => `  r${index}([${quoted(use)}])`),
    ...collections
      .filter((name) => drawn.some(({ asks }) => asks.includes(name)))
      .map((name) => `  ${id('c', collections, name)}[(${quoted(name)})]`),
    ...drawn.flatMap(({ reads, asks }, index) => [
      ...reads.map((path) => `  ${id('f', paths, path)} --> r${index}`),
      ...asks.map((name) => `  r${index} -.-> ${id('c', collections, name)}`),
    ]),
    '',
  ].join('\n');
}
