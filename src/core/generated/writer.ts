import type { FieldStep, FieldSteps, GroupStep, ListStep, Plan, RolePlan, ScalarStep, UsePlan, ValueCheck } from '../plan/plan.ts';
import { isNeededText } from '../run/raw.ts';
import { directLists } from './direct-lists.ts';
import { HELPERS } from './helpers.ts';
import { literal, member, partOfName, property, sourceNamed } from './source.ts';

// Writes a plan out as straight code: a function for each field, entry and use, over the same frames as the loop. It calls
// the checks as they are, and the loop's own functions for everything that is rare: what is missing, fails or throws, and what is
// seldom declared.

/** What every function of a field takes, after the object that holds it and the frame. */
const COMMON = ['run', 'at', 'stop', 'occasion'];

/**
 * The body of a function of `L` (the helpers) and `plan` that gives the code.
 *
 * @param number names the text in stack traces, and tells it from all others: V8 keeps one function for equal texts, and compiles it for none of its closures
 */
export function write(plan: Plan, number?: number): string {
  return new Writer(plan).write(number);
}

class Writer {
  readonly #plan: Plan;
  /** What the code takes out of the plan, by its way there. */
  readonly #held: string[] = [];
  readonly #names = new Map<unknown, string>();
  readonly #functions: string[] = [];
  readonly #direct: ReadonlySet<FieldStep>;
  #count = 0;

  constructor(plan: Plan) {
    this.#plan = plan;
    this.#direct = directLists(plan);
  }

  write(number?: number): string {
    const { name, fields, between } = this.#plan;
    const read = this.#fields(fields, 'plan.fields', 's', [], 'f');
    const uses = between.map((use, index) => this.#use(use, `plan.between[${index}]`));
    const value = this.#object(fields, 'f', 'return ');
    const settings = "const at = run.at, stop = run.settings.report !== 'everything', occasion = run.settings.occasion;";
    return `"use strict";
const { ${Object.keys(HELPERS).join(', ')} } = L;
${this.#held.map((way, index) => `const h${index} = ${way};`).join('\n')}
${this.#functions.join('\n')}
return {
read(run, s, f) { ${settings}
${read}
},
between(run, f) { ${settings}
${uses.join('\n')}
},
value(f) { ${value} }
};
${number === undefined ? '' : sourceNamed(name, number)}`;
  }

  /** A name for something of the plan, and the way there where it has none yet. */
  #hold(value: unknown, way = ''): string {
    let name = this.#names.get(value);
    if (name === undefined) {
      if (way === '') throw new TypeError('Nobody has said where in the plan this is.');
      name = `h${this.#held.length}`;
      this.#held.push(way);
      this.#names.set(value, name);
    }
    return name;
  }

  /** Reads the fields of the object `source` into a frame. */
  #fields(fields: FieldSteps, way: string, source: string, entries: readonly string[], frame: string): string {
    const reads = fields.steps.map((step, index) => {
      const name = this.#field(step, `${way}.steps[${index}]`, entries, frame, (raw) => {
        const read = `${raw} = ${member('s', step.key)};`;
        const own = step.key in Object.prototype ? `if (Object.hasOwn(s, ${literal(step.key)})) ${read}` : read;
        return `let ${raw}; try { ${own} } catch { ${raw} = BROKEN; }`;
      });
      return `${slotIn(step, frame)} = ${name}(${[source, frameIn(frame), ...COMMON, ...entries].join(', ')});`;
    });
    if (this.#plan.refuseStrangers) reads.push(`refuseStrangers(run, ${this.#hold(fields, way)}, ${source}, ${indexes(entries)});`);
    return reads.join('\n');
  }

  /** A function of its own for each field: V8 takes only so much of what is called into one function. Gives its name. */
  #field(step: FieldStep, way: string, entries: readonly string[], frame: string, take: (raw: string) => string): string {
    const at = this.#functions.push('') - 1;
    const name = `read${at}_${partOfName(step.key)}`;
    const held = this.#hold(step, way);
    const ix = indexes(entries);
    const isNull = step.nullAllowed ? 'if (r === null) return null; ' : '';
    const absent = step.filledBy || step.needed ? `readMissing(run, ${held}, f, ${ix})` : 'undefined';
    // What fills it is a list of frames, without any.
    const missing = this.#direct.has(step) && step.filledBy ? `(${absent} === UNSOUND ? UNSOUND : [])` : absent;
    const body = this.#isLoops(step)
      ? `return readValue(run, ${held}, r, f, ${ix});`
      : `${isNull}if (r === undefined || r === null) return ${missing}; ${this.#there(step, way, entries, frame)}`;
    this.#functions[at] = `function ${name}(${['s', 'f', ...COMMON, ...entries].join(', ')}) { ${take('r')} ${body} }`;
    return name;
  }

  /** What the loop reads: what is seldom declared, and rules on trial. */
  #isLoops(step: FieldStep): boolean {
    return step.op === 'shapes' || (step.op === 'list' && step.isNamed) || step.checks.some(({ isTrial }) => isTrial);
  }

  #there(step: FieldStep, way: string, entries: readonly string[], frame: string): string {
    switch (step.op) {
      case 'scalar':
        return this.#scalar(step, way, entries);
      case 'group':
        return this.#group(step, way, entries, frame);
      default:
        return this.#list(step as ListStep, way, entries);
    }
  }

  #scalar(step: ScalarStep, way: string, entries: readonly string[]): string {
    const held = this.#hold(step);
    const ix = indexes(entries);
    const cleans = step.cleans.map(({ apply }, index) => `v = ${this.#hold(apply, `${way}.cleans[${index}].apply`)}(v);`).join(' ');
    const blank = isNeededText(step) ? `if (isBlank(v)) return unsound(run, ${held}, undefined, ${ix}, 'blank'); ` : '';
    const read = `let v = ${this.#hold(step.kind.json, `${way}.kind.json`)}(r); if (v === UNREADABLE) return unreadable(run, ${held}, r, ${ix});`;
    return `try { ${read} ${cleans} ${blank}${this.#checks(step, way, entries)} } catch (cause) { return faultOfKind(run, ${held}, ${ix}, cause); }`;
  }

  #group(step: GroupStep, way: string, entries: readonly string[], frame: string): string {
    const refused = `if (!isObject(r)) return refused(run, ${this.#hold(step)}, f, ${indexes(entries)});`;
    if (!isLoose(frame)) return `${refused} ${this.#fields(step.inner, `${way}.inner`, 'r', entries, 'f')} return PRESENT;`;
    const variables = step.inner.steps.map((inner) => slotIn(inner, frame));
    const declared = variables.length > 0 ? `let ${variables.join(', ')};` : '';
    return `${refused} ${declared} ${this.#fields(step.inner, `${way}.inner`, 'r', entries, frame)} ${this.#object(step.inner, frame, 'return ')}`;
  }

  #list(step: ListStep, way: string, entries: readonly string[]): string {
    const held = this.#hold(step);
    const ix = indexes(entries);
    const index = `i${this.#count++}`;
    const isDirect = this.#direct.has(step);
    const inside = [...entries, index];
    const take = (raw: string) => `let ${raw}; try { ${raw} = s[${index}]; } catch { ${raw} = BROKEN; }`;
    const item = this.#field(step.item, `${way}.item`, inside, isDirect ? LOOSE : 'e', take);
    const call = (frame: string) => `${item}(${['r', frame, ...COMMON, ...inside].join(', ')})`;
    const empty = Array.from({ length: step.size }, () => 'undefined').join(', ');
    const entry = isDirect ? `v.push(${call('undefined')});` : `const e = [${empty}]; e[${step.item.slot}] = ${call('e')}; v.push(e);`;
    const isSimple = step.checks.every(({ definition }) => definition.countsOnly);
    const checks = isSimple ? this.#checks(step, way, entries) : `return judgeValue(run, ${held}, v, ${ix});`;
    return `const n = lengthOf(run, ${held}, r, ${ix}); if (n < 0) return UNSOUND; const v = [];
for (let ${index} = 0; ${index} < n; ${index}++) { ${entry} } ${checks}`;
  }

  #checks(step: FieldStep, way: string, entries: readonly string[]): string {
    if (step.checks.length === 0) return 'return v;';
    return `let u = v, x; ${step.checks.map((check, index) => this.#check(check, `${way}.checks[${index}]`, step, entries)).join(' ')} return u;`;
  }

  #check(check: ValueCheck, way: string, step: FieldStep, entries: readonly string[]): string {
    const { definition, takes, severity, on } = check;
    const held = this.#hold(check, way);
    const call = `try { x = ${this.#hold(definition.check, `${way}.definition.check`)}(v, ${this.#hold(takes, `${way}.takes`)}, at); } catch (cause) { x = new Thrown(cause); }`;
    const failed = severity === 'error' ? '{ u = UNSOUND; if (stop) return u; }' : ';';
    const judged = `if (x !== true && !isHeld(run, ${held}, v, ${this.#hold(step)}, ${indexes(entries)}, x)) ${failed}`;
    return on ? `if (${isAmong(on)}) { ${call} ${judged} }` : `${call} ${judged}`;
  }

  #use(use: UsePlan, way: string): string {
    const held = this.#hold(use, way);
    if (!isSimpleUse(use)) return `judgeUse(run, ${held});`;
    const n = this.#count++;
    const names = use.roles.map((_, index) => `a${index}`);
    const reads = use.roles.map(({ step }, index) => `${names[index]} = f[${step.slot}]`).join(', ');
    const isThere = ({ spec }: RolePlan, name: string | undefined) =>
      spec.maybe ? `${name} !== UNSOUND` : `${name} !== UNSOUND && ${name} !== undefined && ${name} !== null`;
    const sound = use.roles.map((role, index) => isThere(role, names[index])).join(' && ');
    const members = use.roles.map(({ name, spec }, index) => `${property(name)}: ${names[index]}${spec.maybe ? ' ?? undefined' : ''}`);
    const { run, how } = use.definition;
    const call = `try { x = ${this.#hold(run, `${way}.definition.run`)}(read, NOTHING, ${this.#hold(use.takes, `${way}.takes`)}, at); } catch (cause) { x = new Thrown(cause); }`;
    const settled = `if (x !== true) settle(run, { use: ${held}, frames: run.rootFrames, indexes: NO_INDEXES }, read, NOTHING, x);`;
    const name = `use${n}_${partOfName(how === 'holds' ? use.rule : how)}`;
    this.#functions.push(
      `function ${name}(${['f', ...COMMON].join(', ')}) { if (stop && run.hasErrors) return judgeUse(run, ${held}); const ${reads}; if (${sound}) { const read = { ${members.join(', ')} }; let x; ${call} ${settled} } }`,
    );
    const code = `${name}(${['f', ...COMMON].join(', ')});`;
    return use.on ? `if (${isAmong(use.on)}) ${code}` : code;
  }

  /** The accepted value of some fields: what is always there in one literal, as far as the order allows. */
  #object(fields: FieldSteps, frame: string, to: string): string {
    const steps = fields.steps.filter((step) => !step.isLeftOut);
    const n = this.#count++;
    const before: string[] = [];
    const values = steps.map((step) => this.#value(step, frame, before));
    const members = steps.map((step, index) => `${property(step.key)}: ${values[index]}`);
    const literalOf = (upTo: number) => `{ ${members.slice(0, upTo).join(', ')} }`;
    const isSure = (step: FieldStep) => step.needed || step.filledBy !== undefined;
    const loose = steps.flatMap((step, index) => (isSure(step) ? [] : [values[index] as string]));
    const first = before.join(' ');
    if (loose.length === 0) return `${first} ${to}${literalOf(steps.length)};`;
    const start = steps.findIndex((step) => !isSure(step));
    const rest = steps.slice(start).map((step, index) => {
      const value = values[start + index] as string;
      return `if (${value} !== undefined) ${member(`o${n}`, step.key)} = ${value};`;
    });
    const all = loose.map((value) => `${value} !== undefined`).join(' && ');
    const some = `{ const o${n} = ${literalOf(start)}; ${rest.join(' ')} ${to}o${n}; }`;
    return `${first} if (${all}) ${to}${literalOf(steps.length)}; else ${some}`;
  }

  /** An expression for a member; what it needs first goes to `before`. */
  #value(step: FieldStep, frame: string, before: string[]): string {
    const held = slotIn(step, frame);
    if ((step.op === 'scalar' && !step.kind.copy) || (step.op === 'list' && (isLoose(frame) || this.#direct.has(step)))) return held;
    const n = `m${this.#count++}`;
    if (step.op === 'group') {
      if (isLoose(frame)) return held;
      const inner = this.#object(step.inner, frame, `${n} = `);
      before.push(`let ${n} = ${held}; if (${n} === PRESENT) { ${inner} }`);
    } else before.push(`const ${n} = valueIn(${this.#hold(step)}, ${frame});`);
    return n;
  }
}

/** A use whose roles each read one value of the submission as a whole. */
function isSimpleUse({ scope, when, definition, isTrial, roles }: UsePlan): boolean {
  const isPlain = ({ step, spec, entry, isStored, depth }: RolePlan) =>
    step.op === 'scalar' && !entry && !isStored && depth === 0 && spec.reads === undefined;
  // Where nothing is needed and all may stand in what is not there, the loop looks.
  const isAnchored = roles.some(({ spec }) => !spec.maybe) || roles.every(({ holders }) => holders.length === 0);
  return scope.length === 0 && when.length === 0 && definition.how === 'holds' && !isTrial && isAnchored && roles.every(isPlain);
}

/** Where there is no frame: values stand in variables. */
const LOOSE = 'g';
const isLoose = (frame: string) => frame === LOOSE;

function slotIn(step: FieldStep, frame: string): string {
  return isLoose(frame) ? `${frame}_${step.slot}` : `${frame}[${step.slot}]`;
}

/** The loop marks what is inside a group that failed; where there is no frame, nobody asks. */
function frameIn(frame: string): string {
  return isLoose(frame) ? 'undefined' : frame;
}

function indexes(entries: readonly string[]): string {
  return entries.length === 0 ? 'NO_INDEXES' : `[${entries.join(', ')}]`;
}

function isAmong(names: readonly string[]): string {
  return names.map((name) => `occasion === ${literal(name)}`).join(' || ') || 'false';
}
