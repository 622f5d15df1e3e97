import { fault, nearest } from '../basics/fault.ts';
import type { Want } from '../declared/look-up.ts';
import { IS_ANSWER } from './answers.ts';
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
 * stored next (`unique`, `noOverlap`, `unchangedSince`, any look-up in the collection stored into) is never answered that way, nor is
 * anything inside a transaction (`records.in(…)`, `records.serially(…)`). Whoever asks the same at the same time waits for one answer.
 * Errors, and answers that are none, are not remembered.
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

/** A question, of which some may be known. */
interface Part {
  readonly left: Question | undefined;
  readonly begin: (answer: Promise<Answer | Error>) => void;
  readonly finish: () => Promise<Answer | Error>;
}

/** A question that nobody remembers anything of. */
function whole(question: Question): Part {
  let asked: Promise<Answer | Error> | undefined;
  return {
    left: question,
    begin: (answer) => {
      asked = answer;
    },
    finish: () => asked as Promise<Answer | Error>,
  };
}

/** One key, since whoever asked for it at the same time was left without an answer. */
async function alone(records: Records, question: Question, signal: AbortSignal): Promise<AnswerOfKey> {
  const [answer] = await records.ask([question], signal);
  if (answer instanceof Error) throw answer;
  return nth(0)(answer) as AnswerOfKey;
}

const nth =
  <T>(index: number) =>
  (all: unknown): T =>
    (Array.isArray(all) ? all[index] : undefined) as T;

class Cache {
  // In the order in which they were last asked for.
  readonly #kept = new Map<string, { readonly answer: AnswerOfKey; readonly until: number }>();
  /** What is asked at the moment. */
  readonly #asking = new Map<string, Promise<AnswerOfKey>>();
  readonly #collections: ReadonlySet<string>;
  readonly #milliseconds: number;
  readonly #most: number;

  constructor(collections: ReadonlySet<string>, milliseconds: number, most: number) {
    this.#collections = collections;
    this.#milliseconds = milliseconds;
    this.#most = most;
  }

  async ask(records: Records, questions: readonly Question[], signal: AbortSignal): Promise<readonly (Answer | Error)[]> {
    const parts = questions.map((question) => this.#part(question, records, signal));
    const asked = parts.flatMap(({ left }) => (left ? [left] : []));
    const got = asked.length === 0 ? [] : records.ask(asked, signal);
    let next = 0;
    for (const part of parts) if (part.left) part.begin(Promise.resolve(got).then(nth(next++)));
    return Promise.all(parts.map(({ finish }) => finish()));
  }

  /** What is left of a question to ask, and how its answer is put together. */
  #part(question: Question, records: Records, signal: AbortSignal): Part {
    if (question.isFresh || !this.#collections.has(question.collection)) return whole(question);
    const { keys, ...ground } = question;
    const prefix = JSON.stringify(ground);
    const names = keys.map((key) => `${prefix} ${JSON.stringify(key)}`);
    const known = names.map((name) => this.#take(name));
    // What somebody else is asking at the moment is waited for.
    const joined = names.map((name, index) => (known[index] === undefined ? this.#asking.get(name) : undefined));
    const missing = [...keys.keys()].filter((index) => known[index] === undefined && joined[index] === undefined);
    const left = missing.length === 0 ? undefined : { ...question, keys: missing.map((index) => keys[index] as Question['keys'][number]) };
    let asked: Promise<Answer | Error> | undefined;
    return {
      left,
      begin: (answer) => {
        asked = answer;
        for (const [at, index] of missing.entries()) this.#begin(names[index] as string, question.want, answer.then(nth(at)));
      },
      finish: async () => {
        const answer = await asked;
        // What is not an answer for each key is for the engine to refuse.
        if (left && !(Array.isArray(answer) && answer.length === missing.length)) return answer as Answer;
        for (const [at, index] of missing.entries()) known[index] = (answer as Answer)[at];
        for (const [index, other] of joined.entries())
          if (other)
            known[index] = await other.catch(() =>
              alone(records, { ...question, keys: [keys[index] as Question['keys'][number]] }, signal),
            );
        return known as unknown as Answer;
      },
    };
  }

  /** Remembers an answer once it is there, if it is one. */
  #begin(name: string, want: Want, answer: Promise<unknown>): void {
    const kept = answer.then((each) => {
      if (!IS_ANSWER[want](each)) throw new TypeError('Whoever asked the same at the same time has got no answer.');
      this.#keep(name, each as AnswerOfKey);
      return each as AnswerOfKey;
    });
    this.#asking.set(name, kept);
    kept.catch(() => undefined).finally(() => this.#asking.delete(name));
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
