import { type Automaton, automatonOf, type Copies, isWrittenOut } from './automaton.ts';
import { type CharacterSet, overlap, unionOf } from './character-set.ts';
import { type Node, parsePattern, Unshown } from './syntax.ts';

// Shows that a backtracking engine needs linear time for a pattern, whatever the text. The engine walks all ways through the
// pattern that the text allows, so it is enough that there are only so many at any place of any text. There are more and
// more of them exactly when (Weber and Seidl, "On the degree of ambiguity of finite automata", 1991)
//
// 1. a state leads back to itself in two ways over the same text: exponentially many; or
// 2. over the same text one state leads back to itself and to another, which leads back to itself: as many as there are
//    places in the text, or a power of that.
//
// And the pattern has to be tried at one place only, because it begins with ^, or no try may take many steps.

/** Steps of one try: of a pattern tried once, and of one tried at every place of the text. */
const MOST_STEPS = 100_000;
const MOST_STEPS_A_PLACE = 200;
/** Ways that may be open at a time, where the text decides between them only later. */
const MOST_WAYS = 1000;
/** Steps of the proof itself. */
const MOST_WORK = 2_000_000;

/** What was shown of expressions: rules are often made anew, and a proof takes its time. */
const known = new Map<string, string | undefined>();
const MOST_KNOWN = 1000;

/** Why linear time cannot be shown, in words; `undefined` when it is shown. */
export function whyNotLinear(expression: RegExp): string | undefined {
  const key = String(expression);
  if (known.has(key)) return known.get(key);
  if (known.size >= MOST_KNOWN) known.clear();
  const why = prove(expression);
  known.set(key, why);
  return why;
}

function prove(expression: RegExp): string | undefined {
  try {
    const { node, looks } = withoutShortLooks(parsePattern(expression));
    const { body, ahead } = withoutAhead(node);
    for (const looked of ahead) checkAnchored(looked);
    const { length, ways } = measure(body);
    const isOnce = isAnchored(body);
    // At every step there may be as much to look at.
    if (length * ways * (1 + looks) <= (isOnce ? MOST_STEPS : MOST_STEPS_A_PLACE)) return undefined;
    if (!isOnce && length > MOST_STEPS_A_PLACE) return 'it does not begin with ^, and so is tried at every place of the text';
    if (!isOnce) return 'it does not begin with ^, and one try may take many steps';
    if (hasInnerStart(body)) return 'a ^ stands inside it';
    checkAnchored(body);
    return undefined;
  } catch (cause) {
    if (cause instanceof Unshown) return cause.message;
    throw cause;
  }
}

/** Steps of looking ahead or behind at one place. */
const MOST_LOOKED = 64;

/** What is looked at over so short a length that it takes few steps wherever it stands, is left out; and the steps that all of it takes. */
function withoutShortLooks(node: Node): { readonly node: Node; readonly looks: number } {
  let looks = 0;
  const rest = (part: Node): Node => {
    if (part.type === 'ahead' || part.type === 'behind') {
      const of = rest(part.of);
      const { length, ways } = measure(of);
      const steps = (length + 1) * ways;
      if (looksAround(of) || steps > MOST_LOOKED) return { ...part, of };
      looks += steps;
      return { type: 'edge' };
    }
    if (part.type === 'repeat') return { ...part, of: rest(part.of) };
    return 'parts' in part ? { ...part, parts: part.parts.map(rest) } : part;
  };
  return { node: rest(node), looks };
}

/** Looking ahead is done once where the pattern begins, and again for every way anywhere else. */
function withoutAhead(node: Node): { readonly body: Node; readonly ahead: readonly Node[] } {
  const parts = node.type === 'sequence' ? node.parts : [node];
  let first = 0;
  while (parts[first]?.type === 'start' || parts[first]?.type === 'ahead') first++;
  const ahead = parts.slice(0, first).flatMap((part) => (part.type === 'ahead' ? [part.of] : []));
  if (ahead.length > 0 && parts[0]?.type !== 'start') throw new Unshown('looking ahead where no ^ stands before');
  const kept = parts.filter((part, index) => index >= first || part.type !== 'ahead');
  const body: Node = node.type === 'sequence' ? { type: 'sequence', parts: kept } : node;
  for (const part of [...ahead, body]) if (looksAround(part)) throw new Unshown('looking far ahead or behind inside it');
  return { body, ahead };
}

function looksAround(node: Node): boolean {
  if (node.type === 'ahead' || node.type === 'behind') return true;
  if (node.type === 'repeat') return looksAround(node.of);
  return 'parts' in node && node.parts.some(looksAround);
}

/** The longest text that a node matches, and in how many ways at most it may be walked through. */
function measure(node: Node): { readonly length: number; readonly ways: number } {
  switch (node.type) {
    case 'characters':
      return { length: 1, ways: 1 };
    case 'sequence': {
      const parts = node.parts.map(measure);
      return { length: sum(parts.map(({ length }) => length)), ways: parts.reduce((all, { ways }) => all * ways, 1) };
    }
    case 'either': {
      const parts = node.parts.map(measure);
      return { length: Math.max(...parts.map(({ length }) => length)), ways: sum(parts.map(({ ways }) => ways)) };
    }
    case 'repeat': {
      if (node.max === 0) return { length: 0, ways: 1 };
      const { length, ways } = measure(node.of);
      if (node.max === Number.POSITIVE_INFINITY) return { length: Number.POSITIVE_INFINITY, ways: Number.POSITIVE_INFINITY };
      return { length: length * node.max, ways: repeatedWays(ways, node.min, node.max) };
    }
    default:
      return { length: 0, ways: 1 };
  }
}

function repeatedWays(ways: number, min: number, max: number): number {
  if (ways === 1) return max - min + 1;
  // The sum of a geometric row; beyond the limit it does not matter how far.
  return Math.min(Number.MAX_SAFE_INTEGER, (max - min + 1) * ways ** max);
}

function sum(numbers: readonly number[]): number {
  return numbers.reduce((all, number) => all + number, 0);
}

function isAnchored(node: Node): boolean {
  if (node.type === 'start') return true;
  if (node.type === 'sequence') return node.parts.length > 0 && isAnchored(node.parts[0] as Node);
  return node.type === 'either' && node.parts.every(isAnchored);
}

function hasInnerStart(node: Node, isFirst = true): boolean {
  switch (node.type) {
    case 'start':
      return !isFirst;
    case 'sequence':
      return node.parts.some((part, index) => hasInnerStart(part, isFirst && index === 0));
    case 'either':
      return node.parts.some((part) => hasInnerStart(part, isFirst));
    case 'repeat':
      return hasInnerStart(node.of, false);
    default:
      return false;
  }
}

/** Throws where the ways through a pattern that is tried once may become more and more. */
function checkAnchored(node: Node): void {
  try {
    checkWith(node, FEW);
  } catch (cause) {
    // What is written out further has fewer ways, and takes longer to look through.
    if (!(cause instanceof Unshown)) throw cause;
    checkWith(node, MORE);
  }
}

const FEW: Copies = { most: 3, exactly: 3 };
const MORE: Copies = { most: 10, exactly: 40 };

function checkWith(node: Node, copies: Copies): void {
  if (openWays(node, [], copies) > MOST_WAYS) throw new Unshown('it leaves too many ways open at a time');
  new Shown(automatonOf(node, copies)).check();
}

/** Ways that may be open at a time: where the next character decides, only one goes on. */
function openWays(node: Node, follow: CharacterSet, copies: Copies): number {
  switch (node.type) {
    case 'sequence': {
      let [ways, next] = [1, follow];
      for (const part of [...node.parts].reverse()) {
        ways *= openWays(part, next, copies);
        next = canBeEmpty(part) ? unionOf(firstOf(part), next) : firstOf(part);
      }
      return ways;
    }
    case 'either': {
      const ways = node.parts.map((part) => openWays(part, follow, copies));
      const firsts = node.parts.map((part) => (canBeEmpty(part) ? unionOf(firstOf(part), follow) : firstOf(part)));
      return waysTogether(firsts, ways);
    }
    case 'repeat': {
      const { of, min, max } = node;
      if (max === 0) return 1;
      const first = firstOf(of);
      const inside = openWays(of, max > 1 ? unionOf(first, follow) : follow, copies);
      const isOpen = min !== max && !isDecided([first, follow]);
      if (isWrittenOut(node, copies)) return (isOpen ? inside + 1 : inside) ** max;
      // In a loop that is proved, one way leads to each of its states.
      return isOpen || inside > 1 ? inside * (sizeOf(of) + 1) : 1;
    }
    default:
      return 1;
  }
}

/** The most ways that one next character leaves open. */
function waysTogether(firsts: readonly CharacterSet[], ways: readonly number[]): number {
  const points = [...new Set(firsts.flatMap((first) => first.map(([from]) => from)))];
  const isIn = (first: CharacterSet, point: number) => first.some(([from, to]) => from <= point && point <= to);
  return Math.max(...ways, ...points.map((point) => sum(ways.filter((_, index) => isIn(firsts[index] as CharacterSet, point)))));
}

function isDecided(firsts: readonly CharacterSet[]): boolean {
  return firsts.every((first, index) => firsts.slice(index + 1).every((other) => !overlap(first, other)));
}

function sizeOf(node: Node): number {
  if (node.type === 'characters') return 1;
  if (node.type === 'repeat') return sizeOf(node.of);
  return 'parts' in node ? sum(node.parts.map(sizeOf)) : 0;
}

/** The characters that a node may begin with. */
function firstOf(node: Node): CharacterSet {
  switch (node.type) {
    case 'characters':
      return node.set;
    case 'sequence': {
      const sets: CharacterSet[] = [];
      for (const part of node.parts) {
        sets.push(firstOf(part));
        if (!canBeEmpty(part)) break;
      }
      return unionOf(...sets);
    }
    case 'either':
      return unionOf(...node.parts.map(firstOf));
    case 'repeat':
      return node.max === 0 ? [] : firstOf(node.of);
    default:
      return [];
  }
}

function canBeEmpty(node: Node): boolean {
  switch (node.type) {
    case 'characters':
      return false;
    case 'sequence':
      return node.parts.every(canBeEmpty);
    case 'either':
      return node.parts.some(canBeEmpty);
    case 'repeat':
      return node.min === 0 || canBeEmpty(node.of);
    default:
      return true;
  }
}

/** Looks for the two forms of a pattern whose ways become more and more. */
class Shown {
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
