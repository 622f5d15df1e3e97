import type { Automaton } from './automaton.ts';
import type { CharacterSet } from './character-set.ts';
import { Unshown } from './syntax.ts';

/** Steps of the proof itself. */
const MOST_WORK = 2_000_000;

/**
 * Looks for the two forms of a pattern whose ways become more and more.
 *
 * @throws Unshown where there is one, or where that cannot be told
 */
export function checkGrowth(automaton: Automaton): void {
  new Growth(automaton).check();
}

class Growth {
  readonly #steps: Automaton['steps'];
  /** Which of the smallest sets, that all others are made of, each state takes. */
  readonly #masks: readonly bigint[];
  /** The states that lead to each other have one number. */
  readonly #loops: readonly number[];
  #work = 0;

  constructor({ sets, steps }: Automaton) {
    this.#steps = steps;
    this.#masks = masksOf(sets);
    this.#loops = loopsOf(steps);
  }

  check(): void {
    for (const [state, next] of this.#steps.entries())
      for (const [to, ways] of next) if (ways > 1 && this.#isInside(state, to)) this.#refuse();
    const inLoops = this.#steps.flatMap((_, state) => (this.#isLoop(state) ? [state] : []));
    for (const state of inLoops) this.#checkTwice(state);
    for (const one of inLoops) for (const other of inLoops) if (one !== other) this.#checkBeside(one, other);
  }

  #isInside(state: number, to: number): boolean {
    return this.#loops[state] === this.#loops[to];
  }

  /** Whether a state leads back to itself. */
  #isLoop(state: number): boolean {
    return [...(this.#steps[state] as ReadonlyMap<number, number>).keys()].some((to) => this.#isInside(state, to));
  }

  #refuse(): never {
    throw new Unshown('the same text may be walked through in more and more ways');
  }

  /** Two ways from a state back to itself over the same text. */
  #checkTwice(from: number): void {
    const size = this.#steps.length;
    const isInside = (to: number) => this.#isInside(from, to);
    const reached = this.#walk([from * size + from], (pair, visit) => {
      const [one, two] = [Math.floor(pair / size), pair % size];
      for (const a of this.#next(one))
        if (isInside(a)) for (const b of this.#next(two)) if (isInside(b) && this.#meet(a, b)) visit(a * size + b, pair);
    });
    // Apart somewhere, and together again.
    const apart = [...reached.keys()].filter((pair) => Math.floor(pair / size) !== pair % size);
    if (apart.length === 0) return;
    const back = this.#walk(apart, (pair, visit) => {
      const [one, two] = [Math.floor(pair / size), pair % size];
      for (const a of this.#next(one))
        if (isInside(a)) for (const b of this.#next(two)) if (isInside(b) && this.#meet(a, b)) visit(a * size + b, pair);
    });
    if (back.get(from * size + from) !== undefined) this.#refuse();
  }

  /** Over the same text from one state back to it and to the other, and from the other back to it. */
  #checkBeside(one: number, other: number): void {
    if (!this.#leads(one, other)) return;
    const size = this.#steps.length;
    const reached = this.#walk([(one * size + one) * size + other], (triple, visit) => {
      const c = triple % size;
      const b = Math.floor(triple / size) % size;
      const a = Math.floor(triple / size / size);
      for (const x of this.#next(a)) {
        if (!this.#isInside(one, x)) continue;
        for (const z of this.#next(c)) {
          if (!this.#isInside(other, z) || !this.#meet(x, z)) continue;
          for (const y of this.#next(b)) if (this.#leads(y, other) && this.#meet(x, z, y)) visit((x * size + y) * size + z, triple);
        }
      }
    });
    if (reached.get((one * size + other) * size + other) !== undefined) this.#refuse();
  }

  #next(state: number): Iterable<number> {
    return (this.#steps[state] as ReadonlyMap<number, number>).keys();
  }

  /** Whether some character is taken by all these states. */
  #meet(...states: readonly number[]): boolean {
    let common = -1n;
    for (const state of states) common &= this.#masks[state] as bigint;
    return common !== 0n;
  }

  readonly #reached = new Map<number, ReadonlySet<number>>();

  #leads(from: number, to: number): boolean {
    let known = this.#reached.get(from);
    if (!known) {
      const all = new Set([from]);
      for (const state of all) for (const next of this.#next(state)) all.add(next);
      known = all;
      this.#reached.set(from, known);
    }
    return known.has(to);
  }

  /** Everything reached by at least one step, with what it was reached from. */
  #walk(from: readonly number[], step: (state: number, visit: (to: number, by: number) => void) => void): Map<number, number> {
    const reached = new Map<number, number>();
    const open = [...from];
    const seen = new Set(from);
    for (let state = open.pop(); state !== undefined; state = open.pop()) {
      step(state, (to, by) => {
        if (++this.#work > MOST_WORK) throw new Unshown('it is too large to be looked through');
        if (!reached.has(to)) reached.set(to, by);
        if (seen.has(to)) return;
        seen.add(to);
        open.push(to);
      });
    }
    return reached;
  }
}

/** Cuts all sets into pieces that lie in or outside of each, and says which pieces each has. */
function masksOf(sets: readonly CharacterSet[]): bigint[] {
  const cuts = [...new Set(sets.flatMap((set) => set.flatMap(([first, last]) => [first, last + 1])))].sort((a, b) => a - b);
  const at = new Map(cuts.map((cut, index) => [cut, BigInt(index)]));
  return sets.map((set) =>
    set.reduce((mask, [first, last]) => {
      const [from, to] = [at.get(first) as bigint, at.get(last + 1) as bigint];
      return mask | (((1n << (to - from)) - 1n) << from);
    }, 0n),
  );
}

/** Numbers the strongly connected parts (Tarjan's algorithm, with a stack of its own). */
function loopsOf(steps: Automaton['steps']): number[] {
  const size = steps.length;
  const number: number[] = new Array(size).fill(-1);
  const low: number[] = new Array(size).fill(0);
  const loop: number[] = new Array(size).fill(-1);
  const stack: number[] = [];
  let count = 0;
  let loops = 0;
  for (let root = 0; root < size; root++) {
    if (number[root] !== -1) continue;
    const work: { readonly state: number; readonly next: Iterator<number> }[] = [];
    const enter = (state: number) => {
      number[state] = low[state] = count++;
      stack.push(state);
      work.push({ state, next: (steps[state] as ReadonlyMap<number, number>).keys() });
    };
    enter(root);
    while (work.length > 0) {
      const { state, next } = work.at(-1) as (typeof work)[number];
      const { done, value } = next.next();
      if (!done) {
        if (number[value] === -1) enter(value);
        else if (loop[value] === -1) low[state] = Math.min(low[state] as number, number[value] as number);
        continue;
      }
      work.pop();
      const around = work.at(-1)?.state;
      if (around !== undefined) low[around] = Math.min(low[around] as number, low[state] as number);
      if (low[state] !== number[state]) continue;
      for (let inside = stack.pop() as number; ; inside = stack.pop() as number) {
        loop[inside] = loops;
        if (inside === state) break;
      }
      loops++;
    }
  }
  return loop;
}
