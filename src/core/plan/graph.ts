import { shorten, WITHHELD } from '../basics/text.ts';
import type { LookUpSpec } from '../declared/look-up.ts';
import { type ByCondition, byCondition } from './by-condition.ts';
import { leavesOf } from './leaves.ts';
import type { ConditionPlan, LookUpPlan, Plan, ReadsCondition, RolePlan, UsePlan } from './plan.ts';
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
  /** The same without its conditions. */
  readonly own: { readonly reads: readonly string[]; readonly asks: readonly string[] };
  /** Its conditions, by their names among those of the graph. */
  readonly when: readonly string[];
}

/** A condition that guards some rule. */
export interface GraphCondition {
  /** Its id, what it compares, or the occasion or days that it names; with what it reads where several are alike. `not: ` where it must not hold. */
  readonly name: string;
  readonly reads: readonly string[];
  readonly asks: readonly string[];
}

/** An intake's rules, fields and collections as data. */
export interface Graph {
  readonly name: string;
  readonly fields: readonly { readonly path: string; readonly kind: string; readonly isGiven: boolean }[];
  readonly collections: readonly string[];
  readonly conditions: readonly GraphCondition[];
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
      for (const { use, rule } of step.checks)
        rules.push({ use, rule, step: 'value', reads: [path], blames: [path], asks: [], own: { reads: [path], asks: [] }, when: [] });
    });
  }
  const conditions = new Map<string, GraphCondition>();
  for (const use of plan.uses) rules.push(ruleOf(use, conditions));
  return { name: plan.name, fields, collections: plan.collections.map(({ name }) => name), conditions: [...conditions.values()], rules };
}

function ruleOf(use: UsePlan, known: Map<string, GraphCondition>): GraphRule {
  const conditions = use.when.flatMap(leavesOf);
  const own = { reads: unique(use.roles.flatMap(pathsOf)), asks: unique([...use.lookUps, ...use.tells].flatMap(collectionsOf)) };
  return {
    use: use.use,
    rule: use.rule,
    step: use.phase,
    reads: unique([...use.roles, ...conditions.flatMap(({ roles }) => roles)].flatMap(pathsOf)),
    blames: unique(use.blamed.flatMap(pathsOf)),
    asks: unique([...use.lookUps, ...use.tells, ...conditions.flatMap(({ lookUps }) => lookUps)].flatMap(collectionsOf)),
    own,
    when: unique(use.when.flatMap((condition) => namesIn(condition, known))),
  };
}

/** The names of what a condition is made of; each is added to those that are known. */
function namesIn(condition: ConditionPlan, known: Map<string, GraphCondition>, isNot = false): string[] {
  if (condition.of.length > 0) return condition.of.flatMap((member) => namesIn(member, known, isNot !== (condition.sort.negates === true)));
  const { roles = [], lookUps = [] } = condition as Partial<ReadsCondition>;
  const [reads, asks] = [unique(roles.flatMap(pathsOf)), unique(lookUps.flatMap(collectionsOf))];
  const plain = `${isNot ? 'not: ' : ''}${byCondition(condition, NAME)}`;
  const other = known.get(plain);
  const name = other && other.reads.join() !== reads.join() ? `${plain} (${reads.join(', ')})` : plain;
  known.set(name, { name, reads, asks });
  return [name];
}

const nothing = () => '';
const NAME: ByCondition<string> = {
  condition: (condition) => (condition.definition.isOurs ? readName(condition) : condition.definition.id),
  occasion: ({ names }) => names.join(' or '),
  calendar: ({ from, until }) => [from && `from ${from}`, until && `until ${until}`].filter(Boolean).join(' '),
  not: nothing,
  all: nothing,
  any: nothing,
};

/** Of a ready-made condition: which fields it compares, and with what. */
function readName({ roles, takes, definition }: ReadsCondition): string {
  if (definition.isPresence) return roles.map(({ place }) => `${place.path} is there`).join();
  const wanted = takes.wanted as readonly (readonly unknown[])[];
  return roles.map(({ place }, at) => `${place.path} is ${place.isSecret ? WITHHELD : wanted[at]?.map(String).join(' or ')}`).join(', ');
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

/** Characters of a condition's name that a drawing has room for. */
const MOST_DRAWN = 60;

/** Something drawn: a field, a condition, a rule or a collection. */
export interface Drawn {
  readonly id: string;
  readonly sort: 'field' | 'condition' | 'rule' | 'collection';
  readonly text: string;
}
/** What leads from where to where: fields to what reads them, conditions to the rules that they guard, both to what they ask. */
export type DrawnLine = readonly [from: string, to: string];

/** How much of a graph is drawn. */
export interface DrawnWhat {
  /** Rules about one value too. Defaults to those that look at more. */
  readonly withValues?: boolean;
}

/** The nodes and lines of a graph, without what has to do with no rule that is drawn. A rule's id has its number among all of the graph. */
export function drawnOf(
  { fields, rules, conditions, collections }: Graph,
  { withValues = false }: DrawnWhat = {},
): {
  readonly nodes: readonly Drawn[];
  readonly lines: readonly DrawnLine[];
} {
  const drawn = [...rules.entries()].filter(([, { step }]) => withValues || step !== 'value');
  const used = new Set(drawn.flatMap(([, { reads }]) => reads));
  const asked = new Set(drawn.flatMap(([, { asks }]) => asks));
  const node = (sort: Drawn['sort'], text: string, key = text): Drawn => ({ id: `${sort} ${key}`, sort, text });
  const asking = (from: string, { reads, asks }: GraphRule['own']): DrawnLine[] => [
    ...reads.map((path) => [`field ${path}`, from] as const),
    ...asks.map((name) => [from, `collection ${name}`] as const),
  ];
  return {
    nodes: [
      ...fields.filter(({ path }) => used.has(path)).map(({ path }) => node('field', path)),
      ...conditions.map(({ name }) => node('condition', shorten(name, MOST_DRAWN), name)),
      ...drawn.map(([at, { use }]) => node('rule', use, String(at))),
      ...collections.filter((name) => asked.has(name)).map((name) => node('collection', name)),
    ],
    lines: [
      ...conditions.flatMap((condition) => asking(`condition ${condition.name}`, condition)),
      ...drawn.flatMap(([at, { own, when }]) => [
        ...asking(`rule ${at}`, own),
        ...when.map((name) => [`condition ${name}`, `rule ${at}`] as const),
      ]),
    ],
  };
}

/** The rules between fields, against records and outside as a Mermaid flowchart. */
export function asMermaid(graph: Graph): string {
  const { nodes, lines } = drawnOf(graph);
  const ids = new Map(nodes.map(({ id }, at) => [id, `n${at}`]));
  const quoted = (text: string) => `"${text.replaceAll('"', '#quot;')}"`;
  const shapes = { field: ['[', ']'], condition: ['{{', '}}'], rule: ['([', '])'], collection: ['[(', ')]'] } as const;
  return [
    'flowchart LR',
    ...nodes.map(({ id, sort, text }) => `  ${ids.get(id)}${shapes[sort][0]}${quoted(text)}${shapes[sort][1]}`),
    ...lines.map(([from, to]) => `  ${ids.get(from)} ${isDotted(from, to) ? '-.->' : '-->'} ${ids.get(to)}`),
    '',
  ].join('\n');
}

/** Whether a line is no reading of a field: a question to the store, or a condition in front of a rule. */
export function isDotted(from: string, to: string): boolean {
  return to.startsWith('collection ') || from.startsWith('condition ');
}
