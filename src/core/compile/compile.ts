import { checkCatalogues } from '#catalogue-check';
import { zoneFormat } from '../basics/days.ts';
import { fault, nearest } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import { negation } from '../conditions/joined.ts';
import type { Fields } from '../declared/field.ts';
import type { CollectionSpec, LookUpSpec } from '../declared/look-up.ts';
import type { BoundSpec, ConditionSpec, Definition, UseSpec } from '../declared/rule.ts';
import { engineIds, engineSlots, inCatalogues, isEngineId } from '../messages/catalogue.ts';
import type { Catalogue } from '../messages/catalogues/catalogue.ts';
import { checkText } from '../messages/check.ts';
import type { PlaceSpec, Plan, RolePlan, UseInfo, UsePlan, ValueCheck, WhenWritten } from '../plan/plan.ts';
import { checkSlots } from '../rules/definition.ts';
import { factPlan, type RoleName } from '../run/facts.ts';
import { asksRecords, bindCondition, bindLookUps, bindRoles, checkOccasions, fieldOf, type Ground, namesOccasion } from './bind.ts';
import { BoundUses } from './bound-uses.ts';
import { type Layout, layOut } from './fields.ts';
import { type Languages, messagesOf } from './languages.ts';

/** What an intake says besides its fields. */
export interface Description {
  readonly name: string;
  readonly fields: Fields;
  readonly rules: readonly (BoundSpec | false)[];
  readonly strangers: 'refuse' | 'drop';
  readonly zone: string | undefined;
  readonly messages: { readonly [name: string]: Texts };
  readonly catalogues: readonly Catalogue[];
  readonly languages: Languages;
  readonly report: 'everything' | 'firstOfEach' | 'firstOfAll';
  readonly mostFindings: number;
  readonly occasions: readonly string[];
  readonly storedIn: CollectionSpec | undefined;
  readonly code: WhenWritten;
}

/** Compiles a description into a plan, or throws a `Fault` that says what contradicts itself. */
export function compile(description: Description): Plan {
  return new Compiler({ ...description, messages: messagesOf(description.messages, description.languages) }).compile();
}

class Compiler {
  readonly #uses = new BoundUses();
  readonly #of: Description;
  readonly #definitions = new Map<string, Definition>();
  readonly #collections = new Map<string, CollectionSpec>();
  /** `as` names and the rule that has each. */
  readonly #names = new Map<string, string>();
  readonly #overridden = new Set<string>();
  #order = 0;

  constructor(of: Description) {
    this.#of = of;
  }

  compile(): Plan {
    const of = this.#of;
    this.#checkZone();
    if (!(Number.isInteger(of.mostFindings) && of.mostFindings > 0))
      fault(`Intake "${of.name}": mostFindings ${of.mostFindings} is not a number of findings.`);
    const layout = layOut(of.name, of.fields, of.languages, (use, place) => this.#check(use, place));
    const ground: Ground = {
      intake: of.name,
      layout,
      note: (definition) => this.#note(definition),
      occasions: of.occasions,
      hasZone: of.zone !== undefined,
    };
    if (of.storedIn) this.#noteCollection(of.storedIn);

    const uses: UsePlan[] = [];
    for (const { bound, prefix } of layout.placed) this.#add(ground, uses, bound, prefix, []);
    for (const bound of of.rules) if (bound !== false) this.#add(ground, uses, bound, '', []);
    this.#checkOverrides(layout);
    checkCatalogues(of, [...this.#definitions.keys()]);

    return {
      name: of.name,
      fields: layout.fields,
      given: layout.given,
      size: layout.size,
      budget: layout.budget,
      uses,
      between: uses.filter((use) => use.phase === 'between'),
      record: uses.filter(needsRecords),
      outside: uses.filter((use) => use.phase === 'outside' && !needsRecords(use)),
      messages: of.messages,
      catalogues: of.catalogues,
      report: of.report,
      mostFindings: of.mostFindings,
      refuseStrangers: of.strangers === 'refuse',
      zone: of.zone,
      occasions: of.occasions,
      storedIn: of.storedIn,
      collections: [...this.#collections.values()],
      busy: { when: of.code, count: 0, code: undefined },
    };
  }

  /** A value rule on its field. */
  #check(use: UseSpec, place: PlaceSpec): ValueCheck | undefined {
    const { rule, options } = use;
    this.#note(rule);
    checkOptions(this.#of.name, rule.id, options);
    const role: RoleName = { name: 'field', place, depth: 0 };
    if (this.#uses.isRepeated(use, [role], [])) return undefined;
    const info = this.#info(use, [role]);
    return {
      rule: info.rule,
      use: info.use,
      severity: info.severity,
      isTrial: info.isTrial,
      order: info.order,
      messages: info.messages,
      definition: rule,
      takes: use.takes,
      on: this.#occasions(use),
      facts: factPlan(this.#of.name, rule, [role], info.messages),
    };
  }

  /** A rule among those of the intake or of a group; a `when` opens up into its rules. */
  #add(ground: Ground, uses: UsePlan[], bound: BoundSpec, prefix: string, guards: readonly ConditionSpec[]): void {
    if (bound?.type === 'when') {
      for (const inner of bound.rules) this.#add(ground, uses, inner, prefix, [...guards, bound.condition]);
      for (const inner of bound.otherwise) this.#add(ground, uses, inner, prefix, [...guards, negation(bound.condition)]);
      return;
    }
    if (bound?.type !== 'use')
      fault(
        `Intake "${this.#of.name}": ${typeof bound === 'function' ? 'a rule stands here unbound; call it with the fields its roles read' : `${String(bound)} is no rule`}.`,
      );
    const { rule } = bound;
    if (rule.check && bound.roles.field === undefined)
      fault(
        `Intake "${this.#of.name}": ${rule.id} is a rule about one value; it stands in a field's own list, such as text('Name', …), and not among the rules between fields.`,
      );
    this.#note(rule);
    checkOptions(this.#of.name, rule.id, bound.options);
    const conditions = bound.options.when ? [...guards, bound.options.when] : guards;
    const { roles, scope } = bindRoles(ground, rule, bound.roles, prefix);
    const blamed = rule.blames.map((name) => roles.find((role) => role.name === name) as RolePlan);
    const when = conditions.map((condition) => bindCondition(ground, condition, prefix, scope));
    if (this.#uses.isRepeated(bound, roles, when)) return;
    const say = (sentence: string) => fault(`Intake "${this.#of.name}", use of ${rule.id}: ${sentence}`);
    const takes = rule.forRoles?.(bound.takes, roles.map(fieldOf), say) ?? bound.takes;
    const lookUps = bindLookUps(rule.looksUp, roles);
    const info = this.#info(bound, blamed);
    uses.push({
      rule: info.rule,
      use: info.use,
      severity: info.severity,
      isTrial: info.isTrial,
      order: info.order,
      messages: info.messages,
      definition: rule,
      takes,
      on: this.#occasions(bound),
      phase: rule.how === 'asks' ? 'outside' : needsRecords({ lookUps, when }) ? 'record' : 'between',
      scope,
      roles,
      blamed,
      lookUps,
      tells: bindLookUps(rule.tells ?? {}, roles),
      when,
      namesOccasion: bound.options.on !== undefined || when.some(namesOccasion),
      facts: this.#factsOf(bound, roles, info),
      constraint: bound.options.constraint,
      isUnguarded: bound.options.unguarded === true,
      hasName: bound.options.as !== undefined,
    });
  }

  #factsOf({ rule, options }: UseSpec, roles: readonly RolePlan[], info: UseInfo): UsePlan['facts'] {
    const facts = factPlan(this.#of.name, rule, roles, info.messages);
    const [told] = facts.found;
    if (options.constraint !== undefined && told)
      fault(
        `Intake "${this.#of.name}", use of ${rule.id}: its message tells {${told.fact}}, which nobody knows when the constraint "${options.constraint}" refuses; give this use a message without it.`,
      );
    return facts;
  }

  #info(use: UseSpec, blamed: readonly RoleName[]): UseInfo {
    const { rule, options } = use;
    const { place } = blamed[0] as RoleName;
    const { as } = options;
    if (as !== undefined) {
      const other = this.#names.get(as);
      if (other !== undefined)
        fault(`Intake "${this.#of.name}": "${as}" names two uses, of ${other} and of ${rule.id}; give each use a name of its own.`);
      this.#names.set(as, rule.id);
    }
    if (rule.needsZone?.(use.takes) && this.#of.zone === undefined) {
      fault(
        `Intake "${this.#of.name}": ${rule.id} of "${place.path}" is relative to today, and the intake has no time zone; add one, such as zone: 'Europe/Oslo'.`,
      );
    }
    return {
      rule: rule.id,
      use: as ?? `${rule.id}@${place.path}`,
      severity: options.severity ?? 'error',
      isTrial: options.trial === true,
      order: this.#order++,
      messages: this.#messages(use, place),
    };
  }

  #occasions({ options: { on } }: UseSpec): readonly string[] | undefined {
    if (on === undefined) return undefined;
    const names = typeof on === 'string' ? [on] : on;
    checkOccasions(this.#of, names);
    return names;
  }

  /** The texts for a use, nearest first: its own, by its name, by rule and field, by rule, the rule's. */
  #messages({ rule, options }: UseSpec, place: PlaceSpec): Texts[] {
    const texts: Texts[] = [];
    if (options.message !== undefined) {
      checkSlots(rule, options.message, `Intake "${this.#of.name}", use of ${rule.id}`);
      texts.push(options.message);
    }
    for (const name of [options.as, `${rule.id}@${place.path}`, rule.id]) {
      if (name === undefined || !Object.hasOwn(this.#of.messages, name)) continue;
      const text = this.#of.messages[name] as Texts;
      checkSlots(rule, text, `Intake "${this.#of.name}", message "${name}"`);
      this.#overridden.add(name);
      texts.push(text);
    }
    for (const { locale, messages, isOurs } of this.#of.catalogues)
      if (!isOurs && Object.hasOwn(messages, rule.id)) checkSlots(rule, messages[rule.id] as string, `Catalogue "${locale}", "${rule.id}"`);
    return [...texts, rule.message, ...inCatalogues(this.#of.catalogues, rule.id)];
  }

  #note(rule: Definition): void {
    const other = this.#definitions.get(rule.id);
    if (other && other !== rule && other.family !== rule.family)
      fault(`Intake "${this.#of.name}": two definitions have the id "${rule.id}"; give one of them another id.`);
    this.#definitions.set(rule.id, rule);
    for (const lookUp of [...Object.values(rule.looksUp), ...Object.values(rule.tells ?? {})]) this.#noteLookUp(lookUp);
  }

  #noteLookUp(lookUp: LookUpSpec): void {
    if (lookUp.terms.some(({ calendar }) => calendar) && this.#of.zone === undefined)
      fault(
        `Intake "${this.#of.name}": a look-up in ${lookUp.collection.name} asks about the calendar, and the intake has no time zone; add one, such as zone: 'Europe/Oslo'.`,
      );
    this.#noteCollection(lookUp.collection);
    for (const inner of Object.values(lookUp.inner)) this.#noteLookUp(inner);
  }

  #noteCollection(collection: CollectionSpec): void {
    const other = this.#collections.get(collection.name);
    if (other && other !== collection)
      fault(`Intake "${this.#of.name}": two collections are named "${collection.name}"; declare it once and share it.`);
    this.#collections.set(collection.name, collection);
  }

  #checkZone(): void {
    const { zone, name } = this.#of;
    if (zone === undefined) return;
    try {
      zoneFormat(zone);
    } catch {
      fault(`Intake "${name}": "${zone}" is no time zone of the IANA database, such as Europe/Oslo.`);
    }
  }

  /** Refuses messages for what is not there, and slots that the engine does not fill. */
  #checkOverrides(layout: Layout): void {
    const { name: intake, messages } = this.#of;
    for (const [name, texts] of Object.entries(messages)) {
      if (this.#overridden.has(name)) continue;
      const [id, path] = name.split('@') as [string, string | undefined];
      if (!isEngineId(id) || (path !== undefined && !layout.targets.has(path))) {
        const known = [...this.#names.keys(), ...this.#definitions.keys(), ...engineIds];
        fault(`Intake "${intake}": the message "${name}" matches no rule; ${nearest(name, known)}`);
      }
      checkText(texts, `Intake "${intake}", message "${name}"`, engineSlots[id]);
    }
  }
}

const USE_OPTIONS = ['as', 'on', 'severity', 'message', 'when', 'constraint', 'trial', 'unguarded'];

function checkOptions(intake: string, id: string, options: UseSpec['options']): void {
  for (const name of Object.keys(options)) {
    if (!USE_OPTIONS.includes(name)) fault(`Intake "${intake}", use of ${id}: there is no option "${name}"; ${nearest(name, USE_OPTIONS)}`);
  }
  const say = (sentence: string) => fault(`Intake "${intake}", use of ${id}: ${sentence}`);
  const { as, on, trial, when, constraint, unguarded } = options as { readonly [option: string]: unknown };
  if (as !== undefined && (typeof as !== 'string' || as === '')) say("as is a name, such as as: 'stay-length'.");
  if (on !== undefined && [on].flat().length === 0) say('on names no occasion, and it would never be judged.');
  if (trial !== undefined && typeof trial !== 'boolean') say('trial is true or left out.');
  if (constraint !== undefined && typeof constraint !== 'string') say('constraint is the name of one.');
  if (unguarded !== undefined && unguarded !== true) say('unguarded is true or left out.');
  if (when !== undefined && typeof (when as Partial<ConditionSpec> | null)?.bind !== 'function')
    say('when is a condition, such as when: equals({ … }).');
  if (options.severity !== undefined && options.severity !== 'error' && options.severity !== 'warning') {
    fault(`Intake "${intake}", use of ${id}: severity is error or warning, not ${String(options.severity)}.`);
  }
}

function needsRecords({ lookUps, when }: Pick<UsePlan, 'lookUps' | 'when'>): boolean {
  return lookUps.length > 0 || when.some(asksRecords);
}
