import { fault, nearest } from '../basics/fault.ts';
import { kindOf } from '../basics/known.ts';
import type { Texts } from '../basics/text.ts';
import { fits, type RoleSpec } from '../declared/kind.ts';
import type { LookUpSpec } from '../declared/look-up.ts';
import type { Claimant, Definition, Facts, RoleSpecs, Say } from '../declared/rule.ts';
import { CLAIMED } from '../declared/rule.ts';
import { checkText } from '../messages/check.ts';
import { foundFacts } from '../stored/found-facts.ts';

/** Facts of a rule that claims: whether a stored record, an earlier row, an earlier entry or another field has the same. */
function claimFacts(_read: never, found: { readonly [CLAIMED]?: Claimant }): Facts {
  const earlier = found[CLAIMED];
  if (!earlier) return { takenBy: 'record' };
  if (earlier.row !== undefined) return { takenBy: earlier.isRefused ? 'refusedRow' : 'row', row: earlier.row };
  if (earlier.entry === undefined) return { takenBy: 'field', sameAs: earlier.pointer };
  return { takenBy: 'entry', entry: earlier.entry, sameAs: earlier.pointer };
}

/** The facts of a rule that claims, and their names. */
export const CLAIM_FACTS = { facts: claimFacts, factNames: ['takenBy', 'row', 'entry', 'sameAs'], open: true } as const;

/** Refuses roles and parameters that no kind describes. */
export function checkRoles(where: string, roles: object): void {
  if (typeof roles !== 'object' || roles === null || Array.isArray(roles))
    fault(`${where} needs its roles as an object, such as { from: day }, and not ${kindOf(roles)}.`);
  for (const [name, role] of Object.entries(roles) as [string, Partial<RoleSpec> | null | undefined][])
    if (!role?.spec) fault(`${where}: "${name}" is described by a kind, such as text, and not by ${kindOf(role)}.`);
}

/** Refuses what contradicts itself in a definition, before it is bound anywhere. */
export function checkDefinition(rule: Definition): void {
  const roles = Object.keys(rule.reads);
  const say = (sentence: string) => fault(`Rule "${rule.id}": ${sentence}`);
  if (typeof rule.id !== 'string' || !/^[\p{L}\p{N}._-]+(\/[\p{L}\p{N}._-]+)*$/u.test(rule.id)) {
    say('an id is words of letters, digits, dots and dashes, with slashes between, such as "marina/fits-berth".');
  }
  if (roles.length === 0) say('it reads no role.');
  if (roles.includes('field') && roles.length > 1) {
    say('the role name "field" is kept for rules about one value; name its roles otherwise, or read "field" alone.');
  }
  for (const name of Object.keys(rule.looksUp)) {
    if (roles.includes(name)) say(`"${name}" names a role and a look-up; rename one of them.`);
  }
  for (const name of Object.keys(rule.takes)) {
    if (roles.includes(name) || name in rule.looksUp) say(`"${name}" names a parameter and a role or look-up; rename one of them.`);
  }
  if (rule.blames.length === 0) say('it blames no role.');
  for (const role of rule.blames) {
    if (!roles.includes(role)) say(`it blames "${role}", which is no role; ${nearest(role, roles)}`);
  }
  if (rule.how === 'failing' && !rule.blames.some((role) => rule.reads[role]?.entry)) {
    say('`failing` gives the indexes of entries, so it has to blame an entries({...}) role.');
  }
  for (const [name, lookUp] of Object.entries(rule.looksUp)) {
    checkLookUp(rule.id, name, lookUp, rule.reads);
  }
  checkSlots(rule, rule.message);
}

/** Refuses a look-up whose terms name no role, or a role of another kind. */
function checkLookUp(id: string, name: string, lookUp: LookUpSpec, roles: RoleSpecs): void {
  const { collection } = lookUp;
  const say = (sentence: string) => fault(`Rule "${id}", look-up "${name}" in ${collection.name}: ${sentence}`);
  for (const column of lookUp.columns) {
    if (!(column in collection.columns)) say(`there is no column "${column}"; ${nearest(column, Object.keys(collection.columns))}`);
  }
  if (lookUp.terms.length === 0 && !lookUp.onlyItself) say('it has no condition, and would read the whole collection.');
  for (const term of lookUp.terms) {
    const column =
      collection.columns[term.column] ??
      say(`there is no column "${term.column}"; ${nearest(term.column, Object.keys(collection.columns))}`);
    if (term.than !== undefined) {
      const other =
        collection.columns[term.than] ?? say(`there is no column "${term.than}"; ${nearest(term.than, Object.keys(collection.columns))}`);
      if (other.spec.name !== column.spec.name)
        say(`column "${term.column}" is ${column.spec.name}, column "${term.than}" is ${other.spec.name}.`);
    }
    if (term.calendar && column.spec.storedAs !== 'date' && column.spec.storedAs !== 'timestamp')
      say(`column "${term.column}" is ${column.spec.name}; only a day or a moment lies in a stretch of the calendar.`);
    if (term.role === undefined) continue;
    const role =
      roles[term.role] ??
      say(`"${term.role}" is neither a role nor a column of the record it starts from; ${nearest(term.role, Object.keys(roles))}`);
    if (role.entry) say(`"${term.role}" reads all entries of a list; a look-up takes one value. Bind a plain role to each entry instead.`);
    if (term.calendar) {
      if (!role.spec.is.includes('day')) say(`a stretch of the calendar is that of a day, and role "${term.role}" is ${role.spec.name}.`);
    } else if (!fits(column, role.spec) && !fits(role, column.spec)) {
      say(`column "${term.column}" is ${column.spec.name}, role "${term.role}" is ${role.spec.name}.`);
    }
  }
  if (lookUp.form.mustExist) checkSure(lookUp, roles, say);
  for (const [inner, nested] of Object.entries(lookUp.inner)) {
    if (lookUp.columns.includes(inner)) say(`"${inner}" names a column and a look-up; rename the look-up.`);
    checkLookUp(id, `${name}.${inner}`, nested, { ...roles, ...collection.columns });
  }
}

/** Refuses to ask that something must exist with what may be absent: nothing would be asked then, and nothing would hold. */
function checkSure({ terms, either = [] }: LookUpSpec, roles: RoleSpecs, say: Say): void {
  const isOpen = (at: number) => roles[terms[at]?.role ?? '']?.maybe === true;
  const refuse = (at: number) =>
    say(
      `\`one\` says that a row must exist, and is asked with "${terms[at]?.role}", which may be absent; use oneOrNone, or make it a role that is needed.`,
    );
  const inGroups = new Set(either.flat(2));
  for (const at of terms.keys()) if (!inGroups.has(at) && isOpen(at)) refuse(at);
  for (const lists of either) if (lists.every((list) => list.some(isOpen))) refuse(lists.flat().find(isOpen) as number);
}

/** Filled for every rule: the labels of the blamed fields, and how many they are. */
const ALWAYS = ['fields', 'fields_count'];

/** Refuses a message with a slot that nothing fills. */
export function checkSlots(rule: Definition, message: Texts, where = `Rule "${rule.id}"`): void {
  const known = [
    ...Object.keys(rule.reads),
    ...Object.keys(rule.reads).flatMap((role) => (rule.reads[role]?.entry ? [] : [`${role}_value`])),
    ...Object.keys(rule.takes),
    ...(rule.factNames ?? []),
    ...(rule.wordNames ?? []),
    ...ALWAYS,
    ...foundFacts(rule.looksUp).map(({ fact }) => fact),
  ];
  // A rule with facts of its own may name them freely: what they are is known only when it fails.
  const open = rule.facts !== undefined && rule.factNames === undefined;
  checkText(message, where, known, open);
}
