import { fault, nearest } from '../basics/fault.ts';
import type { Answer, Question, Records, Scope } from './records.ts';

interface Caching {
  /** The collections that seldom change: tables of allowed values, of berths. */
  readonly collections: readonly string[];
  /** How long an answer is good for. */
  readonly seconds: number;
  /** Answers kept at most; those asked for longest ago are let go first. Defaults to 10,000. */
  readonly most?: number;
}
const OPTIONS = ['collections', 'seconds', 'most'] satisfies (keyof Caching)[];

type AnswerOfKey = Answer[number];

/**
 * The same records, which remember what they answered about some collections for a while. A rule whose answer decides about what is
 * stored next (`unique`, `noOverlap`, `unchangedSince`) is never answered that way, nor is anything inside a transaction
 * (`records.in(…)`, `records.serially(…)`). Errors are not remembered.
 *
 * @throws Fault for options that make no sense
 */
export function cached<R extends Records>(records: R, { collections, seconds, most = 10_000, ...others }: Caching): R {
  for (const option of Object.keys(others)) fault(`cached: there is no option "${option}"; ${nearest(option, OPTIONS)}`);
  if (!(Array.isArray(collections) && collections.length > 0)) fault('cached: collections is a list of names of collections.');
  if (!(seconds > 0)) fault(`cached: ${seconds} is not a number of seconds.`);
  if (!(Number.isInteger(most) && most > 0)) fault(`cached: most ${most} is not a number of answers.`);
  return caching(records, new Cache(new Set(collections), seconds * 1000, most));
}

function caching<R extends Records>(records: R, cache: Cache): R {
  const { within } = records as { readonly within?: (scope: Scope) => Records };
  const own: { readonly [name: PropertyKey]: unknown } = {
    ask: (questions: readonly Question[], signal: AbortSignal) => cache.ask(records, questions, signal),
    ...(within && { within: (scope: Scope) => caching(within.call(records, scope), cache) }),
  };
  // Whatever else these records can do, they do as before.
  return new Proxy(records, {
    get(target, name) {
      if (Object.hasOwn(own, name)) return own[name];
      const value: unknown = Reflect.get(target, name);
      return typeof value === 'function' ? value.bind(target) : value;
    },
  });
}

class Cache {
  // In the order in which they were last asked for.
  readonly #kept = new Map<string, { readonly answer: AnswerOfKey; readonly until: number }>();
  readonly #collections: ReadonlySet<string>;
  readonly #milliseconds: number;
  readonly #most: number;

  constructor(collections: ReadonlySet<string>, milliseconds: number, most: number) {
    this.#collections = collections;
    this.#milliseconds = milliseconds;
    this.#most = most;
  }

  async ask(records: Records, questions: readonly Question[], signal: AbortSignal): Promise<readonly (Answer | Error)[]> {
    const parts = questions.map((question) => this.#part(question));
    const asked = parts.flatMap(({ left }) => (left ? [left] : []));
    const got = asked.length === 0 ? [] : await records.ask(asked, signal);
    let next = 0;
    return parts.map(({ left, finish }) => finish(left && got[next++]));
  }

  /** What is left of a question to ask, and how its answer is put together. */
  #part(question: Question): {
    readonly left: Question | undefined;
    readonly finish: (answer: Answer | Error | undefined) => Answer | Error;
  } {
    if (question.isFresh || !this.#collections.has(question.collection)) return { left: question, finish: (answer) => answer as Answer };
    const { keys, ...ground } = question;
    const prefix = JSON.stringify(ground);
    const names = keys.map((key) => `${prefix} ${JSON.stringify(key)}`);
    const known = names.map((name) => this.#take(name));
    const missing = [...keys.keys()].filter((index) => known[index] === undefined);
    const left = missing.length === 0 ? undefined : { ...question, keys: missing.map((index) => keys[index] as Question['keys'][number]) };
    return {
      left,
      finish: (answer) => {
        // What is not an answer for each key is for the engine to refuse.
        if (left && !(Array.isArray(answer) && answer.length === missing.length)) return answer as Answer;
        const got = (answer ?? []) as readonly AnswerOfKey[];
        for (const [at, index] of missing.entries()) {
          known[index] = got[at];
          this.#keep(names[index] as string, got[at] as AnswerOfKey);
        }
        return known as unknown as Answer;
      },
    };
  }

  #take(name: string): AnswerOfKey | undefined {
    const kept = this.#kept.get(name);
    if (!kept) return undefined;
    this.#kept.delete(name);
    if (kept.until <= Date.now()) return undefined;
    this.#kept.set(name, kept);
    return kept.answer;
  }

  #keep(name: string, answer: AnswerOfKey): void {
    this.#kept.delete(name);
    this.#kept.set(name, { answer, until: Date.now() + this.#milliseconds });
    const [oldest] = this.#kept.keys();
    if (this.#kept.size > this.#most) this.#kept.delete(oldest as string);
  }
}
