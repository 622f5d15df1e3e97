import { literal, member, partOfName, property, sourceNamed } from '../basics/source.ts';
import type { FieldStep, FieldSteps, Plan, RolePlan, UsePlan, ValueCheck } from '../plan/plan.ts';
import { type CodeWriter, frameIn, indexes, slotIn, type Where } from '../steps/code.ts';
import { directLists } from './direct-lists.ts';
import { HELPERS } from './helpers.ts';
import { codeOf } from './steps.ts';

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

class Writer implements CodeWriter {
  readonly #plan: Plan;
  /** What the code takes out of the plan, by its way there. */
  readonly #held: string[] = [];
  readonly #names = new Map<unknown, string>();
  readonly #functions: string[] = [];
  readonly direct: ReadonlySet<FieldStep>;
  #count = 0;

  constructor(plan: Plan) {
    this.#plan = plan;
    this.direct = directLists(plan);
  }

  write(number?: number): string {
    const { name, fields, between } = this.#plan;
    const read = this.fields(fields, 's', { way: 'plan.fields', entries: [], frame: 'f' });
    const uses = between.map((use, index) => this.#use(use, `plan.between[${index}]`));
    const value = this.object(fields, 'f', 'return ');
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

  hold(value: unknown, way = ''): string {
    let name = this.#names.get(value);
    if (name === undefined) {
      if (way === '') throw new TypeError('Nobody has said where in the plan this is.');
      name = `h${this.#held.length}`;
      this.#held.push(way);
      this.#names.set(value, name);
    }
    return name;
  }

  name(letter: string): string {
    return `${letter}${this.#count++}`;
  }

  fields(fields: FieldSteps, source: string, at: Where): string {
    const reads = fields.steps.map((step, index) => {
      const name = this.field(step, { ...at, way: `${at.way}.steps[${index}]` }, (raw) => {
        const read = `${raw} = ${member('s', step.key)};`;
        const own = step.key in Object.prototype ? `if (Object.hasOwn(s, ${literal(step.key)})) ${read}` : read;
        return `let ${raw}; try { ${own} } catch { ${raw} = BROKEN; }`;
      });
      return `${slotIn(step, at.frame)} = ${this.call(name, source, at)};`;
    });
    if (this.#plan.refuseStrangers) reads.push(`refuseStrangers(run, ${this.hold(fields, at.way)}, ${source}, ${indexes(at.entries)});`);
    return reads.join('\n');
  }

  /** A function of its own for each field: V8 takes only so much of what is called into one function. */
  field(step: FieldStep, at: Where, take: (raw: string) => string): string {
    const index = this.#functions.push('') - 1;
    const name = `read${index}_${partOfName(step.key)}`;
    const held = this.hold(step, at.way);
    const ix = indexes(at.entries);
    const isNull = step.nullAllowed ? 'if (r === null) return null; ' : '';
    const absent = step.filledBy || step.needed ? `readMissing(run, ${held}, f, ${ix})` : 'undefined';
    // What fills it is a list of frames, without any.
    const missing = this.direct.has(step) && step.filledBy ? `(${absent} === UNSOUND ? UNSOUND : [])` : absent;
    // Rules on trial are for the loop.
    const body = step.checks.some(({ isTrial }) => isTrial)
      ? `return readValue(run, ${held}, r, f, ${ix});`
      : `${isNull}if (r === undefined || r === null) return ${missing}; ${codeOf(step).read(this, step, at)}`;
    this.#functions[index] = `function ${name}(${['s', 'f', ...COMMON, ...at.entries].join(', ')}) { ${take('r')} ${body} }`;
    return name;
  }

  call(name: string, source: string, { frame, entries }: Where): string {
    return `${name}(${[source, frameIn(frame), ...COMMON, ...entries].join(', ')})`;
  }

  checks(step: FieldStep, { way, entries }: Where): string {
    if (step.checks.length === 0) return 'return v;';
    return `let u = v, x; ${step.checks.map((check, index) => this.#check(check, `${way}.checks[${index}]`, step, entries)).join(' ')} return u;`;
  }

  #check(check: ValueCheck, way: string, step: FieldStep, entries: readonly string[]): string {
    const { definition, takes, severity, on } = check;
    const held = this.hold(check, way);
    const call = `try { x = ${this.hold(definition.check, `${way}.definition.check`)}(v, ${this.hold(takes, `${way}.takes`)}, at); } catch (cause) { x = new Thrown(cause); }`;
    const failed = severity === 'error' ? '{ u = UNSOUND; if (stop) return u; }' : ';';
    const judged = `if (x !== true && !isHeld(run, ${held}, v, ${this.hold(step)}, ${indexes(entries)}, x)) ${failed}`;
    return on ? `if (${isAmong(on)}) { ${call} ${judged} }` : `${call} ${judged}`;
  }

  #use(use: UsePlan, way: string): string {
    const held = this.hold(use, way);
    if (!isSimpleUse(use)) return `judgeUse(run, ${held});`;
    const n = this.#count++;
    const names = use.roles.map((_, index) => `a${index}`);
    const reads = use.roles.map(({ step }, index) => `${names[index]} = f[${step.slot}]`).join(', ');
    const isThere = ({ spec }: RolePlan, name: string | undefined) =>
      spec.maybe ? `${name} !== UNSOUND` : `${name} !== UNSOUND && ${name} !== undefined && ${name} !== null`;
    const sound = use.roles.map((role, index) => isThere(role, names[index])).join(' && ');
    const members = use.roles.map(({ name, spec }, index) => `${property(name)}: ${names[index]}${spec.maybe ? ' ?? undefined' : ''}`);
    const { run, how } = use.definition;
    const call = `try { x = ${this.hold(run, `${way}.definition.run`)}(read, NOTHING, ${this.hold(use.takes, `${way}.takes`)}, at); } catch (cause) { x = new Thrown(cause); }`;
    const settled = `if (x !== true) settle(run, { use: ${held}, frames: run.rootFrames, indexes: NO_INDEXES }, read, NOTHING, x);`;
    const name = `use${n}_${partOfName(how === 'holds' ? use.rule : how)}`;
    this.#functions.push(
      `function ${name}(${['f', ...COMMON].join(', ')}) { if (stop && run.hasErrors) return judgeUse(run, ${held}); const ${reads}; if (${sound}) { const read = { ${members.join(', ')} }; let x; ${call} ${settled} } }`,
    );
    const code = `${name}(${['f', ...COMMON].join(', ')});`;
    return use.on ? `if (${isAmong(use.on)}) ${code}` : code;
  }

  /** The accepted value of some fields: what is always there in one literal, as far as the order allows. */
  object(fields: FieldSteps, frame: string, to: string, first?: string): string {
    const steps = fields.steps.filter((step) => !step.isLeftOut);
    const n = this.#count++;
    const before: string[] = [];
    const values = steps.map((step) => codeOf(step).value(this, step, frame, before));
    const members = steps.map((step, index) => `${property(step.key)}: ${values[index]}`);
    const literalOf = (upTo: number) => `{ ${[...(first ? [first] : []), ...members.slice(0, upTo)].join(', ')} }`;
    const isSure = (step: FieldStep) => step.needed || step.filledBy !== undefined;
    const loose = steps.flatMap((step, index) => (isSure(step) ? [] : [values[index] as string]));
    const prepared = before.join(' ');
    if (loose.length === 0) return `${prepared} ${to}${literalOf(steps.length)};`;
    const start = steps.findIndex((step) => !isSure(step));
    const rest = steps.slice(start).map((step, index) => {
      const value = values[start + index] as string;
      return `if (${value} !== undefined) ${member(`o${n}`, step.key)} = ${value};`;
    });
    const all = loose.map((value) => `${value} !== undefined`).join(' && ');
    const some = `{ const o${n} = ${literalOf(start)}; ${rest.join(' ')} ${to}o${n}; }`;
    return `${prepared} if (${all}) ${to}${literalOf(steps.length)}; else ${some}`;
  }
}

/** A use whose roles each read one value of the submission as a whole. */
function isSimpleUse({ scope, when, definition, isTrial, roles }: UsePlan): boolean {
  const isPlain = ({ step, spec, entry, isStored, depth }: RolePlan) =>
    !step.sort.isMade && !entry && !isStored && depth === 0 && spec.reads === undefined;
  // Where nothing is needed and all may stand in what is not there, the loop looks.
  const isAnchored = roles.some(({ spec }) => !spec.maybe) || roles.every(({ holders }) => holders.length === 0);
  return scope.length === 0 && when.length === 0 && definition.how === 'holds' && !isTrial && isAnchored && roles.every(isPlain);
}

function isAmong(names: readonly string[]): string {
  return names.map((name) => `occasion === ${literal(name)}`).join(' || ') || 'false';
}
