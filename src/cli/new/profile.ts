import { digitsOf, exactOf } from '../../core/basics/exact.ts';
import { UNREADABLE } from '../../core/declared/kind.ts';
import type { UseSpec } from '../../core/declared/rule.ts';
import type { ToldKind } from '../../core/declared/told-kind.ts';
import { KINDS } from '../../core/kinds/told.ts';
import * as library from '../../index.ts';

/** What a text can be besides: a rule, by its name. */
const RULES = { email: library.email, uuid: library.uuid, webAddress: library.webAddress, phone: library.phone };
export type RuleName = keyof typeof RULES;

const CHECKS = Object.fromEntries(Object.entries(RULES).map(([name, rule]) => [name, rule() as unknown as UseSpec])) as {
  readonly [N in RuleName]: UseSpec;
};
const NOW = { now: new Date(0), today: '1970-01-01', zone: 'UTC', occasion: '' } as never;

/** More values than this are not kept apart. */
const MOST_OPTIONS = 13;
const MOST_DISTINCT = 200_000;

/** What the values of one field have in common. */
export class Profile {
  readonly #isForm: boolean;
  /** Rows, or entries, in which it could have been. */
  seen = 0;
  /** Those in which it was, and was not null or, in a form, blank. */
  there = 0;
  blank = 0;
  texts = 0;
  numbers = 0;
  flags = 0;
  /** What every value can be, of the kinds that can be told by looking. */
  readonly kinds: Set<ToldKind>;
  readonly rules = new Set(Object.keys(RULES) as RuleName[]);
  readonly options = new Map<string | number, number>();
  readonly size = { least: Number.POSITIVE_INFINITY, most: 0 };
  readonly number = { least: Number.POSITIVE_INFINITY, most: Number.NEGATIVE_INFINITY, places: 0 };
  /** The form that all texts have, such as `AA-0000`; `undefined` where they differ. */
  form: string | undefined;
  example: unknown;
  isDistinct = true;
  readonly #distinct = new Set<unknown>();
  readonly members = new Map<string, Profile>();
  objects = 0;
  lists = 0;
  entries: Profile | undefined;

  /** @param isForm values are what forms and CSV carry: texts */
  constructor(isForm: boolean) {
    this.#isForm = isForm;
    this.kinds = new Set(KINDS.filter(({ guess }) => guess));
  }

  add(value: unknown): void {
    this.seen++;
    if (value === undefined || value === null || (this.#isForm && typeof value === 'string' && value.trim() === '')) return;
    this.there++;
    this.example ??= value;
    if (Array.isArray(value)) this.#addList(value);
    else if (typeof value === 'object') this.#addObject(value as { readonly [key: string]: unknown });
    else this.#addScalar(value);
  }

  #addList(value: readonly unknown[]): void {
    this.lists++;
    this.#sized(value.length);
    this.entries ??= new Profile(this.#isForm);
    for (const each of value) this.entries.add(each);
  }

  #addObject(value: { readonly [key: string]: unknown }): void {
    this.objects++;
    for (const key of Object.keys(value)) {
      if (this.members.has(key)) continue;
      const member = new Profile(this.#isForm);
      // Those before had none.
      member.seen = this.objects - 1;
      this.members.set(key, member);
    }
    for (const [key, member] of this.members) member.add(Object.hasOwn(value, key) ? value[key] : undefined);
  }

  #addScalar(value: unknown): void {
    for (const kind of this.kinds) if (!this.#reads(kind, value)) this.kinds.delete(kind);
    if (typeof value === 'number') this.#addNumber(value);
    else if (typeof value === 'boolean') this.flags++;
    else this.#addText(String(value));
    if (this.isDistinct) {
      if (this.#distinct.has(value) || this.#distinct.size >= MOST_DISTINCT) {
        this.isDistinct = false;
        this.#distinct.clear();
      } else this.#distinct.add(value);
    }
    if (this.options.size < MOST_OPTIONS && (typeof value === 'string' || typeof value === 'number'))
      this.options.set(value, (this.options.get(value) ?? 0) + 1);
  }

  #reads({ spec, guess }: ToldKind, value: unknown): boolean {
    if (!this.#isForm) return spec.json(value) !== UNREADABLE;
    const text = String(value);
    return !guess?.doubtful?.test(text.trim()) && spec.form(text) !== UNREADABLE;
  }

  #addNumber(value: number): void {
    this.numbers++;
    this.#ranged(value);
  }

  #addText(text: string): void {
    this.texts++;
    if (text.trim() === '') this.blank++;
    this.#sized([...text].length);
    for (const name of this.rules) {
      const { rule, takes } = CHECKS[name];
      if (rule.check?.(text, takes, NOW) !== true) this.rules.delete(name);
    }
    const form = formOf(text);
    this.form = this.texts === 1 ? form : this.form === form ? form : undefined;
    if (this.#isForm && [...this.kinds].some(({ spec }) => spec.summable)) this.#ranged(Number(text), text);
  }

  #ranged(value: number, written = String(value)): void {
    this.number.least = Math.min(this.number.least, value);
    this.number.most = Math.max(this.number.most, value);
    // The shortest text of a number may have an exponent: 5e-324 has 324 places.
    this.number.places = Math.max(this.number.places, placesIn(written.trim()));
  }

  #sized(size: number): void {
    this.size.least = Math.min(this.size.least, size);
    this.size.most = Math.max(this.size.most, size);
  }
}

function placesIn(written: string): number {
  if (!/e/i.test(written)) return (written.split('.')[1] ?? '').length;
  const exact = exactOf(Number(written));
  return exact === undefined ? Number.POSITIVE_INFINITY : digitsOf(exact).places;
}

/** Capital letters as A, small ones as a, digits as 0, and the rest as it stands. */
function formOf(text: string): string | undefined {
  if (text.length > 24) return undefined;
  return text.replaceAll(/[0-9]/g, '0').replaceAll(/[A-Z]/g, 'A').replaceAll(/[a-z]/g, 'a');
}
