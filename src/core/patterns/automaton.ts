import type { CharacterSet } from './character-set.ts';
import { type Node, Unshown } from './syntax.ts';

// An expression as an automaton without empty steps: a state for each place where a character is taken, and a step for each
// way from one to the next. Two ways that make the same step count twice, since an engine tries both.

export interface Automaton {
  /** What each state takes. */
  readonly sets: readonly CharacterSet[];
  /** From a state to others, and in how many ways. */
  readonly steps: readonly ReadonlyMap<number, number>[];
}

/** In how many ways a part begins or ends in each state. */
type Ways = ReadonlyMap<number, number>;

interface Part {
  /** In how many ways it takes nothing. */
  readonly empty: number;
  readonly first: Ways;
  readonly last: Ways;
}

/** Which repetitions are written out; a longer one counts as one without end, which has more ways, never fewer. */
export interface Copies {
  /** So many times at most. */
  readonly most: number;
  /** Exactly so many times. */
  readonly exactly: number;
}
const MOST_STATES = 1000;

export function isWrittenOut({ min, max }: { readonly min: number; readonly max: number }, copies: Copies): boolean {
  return max <= (min === max ? copies.exactly : copies.most);
}

export function automatonOf(node: Node, copies: Copies): Automaton {
  const sets: CharacterSet[] = [];
  const steps: Map<number, number>[] = [];

  const join = (from: Ways, to: Ways): void => {
    for (const [state, ways] of from)
      for (const [next, more] of to) {
        const known = steps[state] as Map<number, number>;
        known.set(next, (known.get(next) ?? 0) + ways * more);
      }
  };
  const follow = (one: Part, two: Part): Part => {
    join(one.last, two.first);
    return {
      empty: one.empty * two.empty,
      first: sumOf(one.first, scaled(two.first, one.empty)),
      last: sumOf(two.last, scaled(one.last, two.empty)),
    };
  };

  const build = (part: Node): Part => {
    switch (part.type) {
      case 'characters': {
        if (sets.length === MOST_STATES) throw new Unshown('it is too large to be looked through');
        const state = sets.push(part.set) - 1;
        steps.push(new Map());
        return { empty: 0, first: new Map([[state, 1]]), last: new Map([[state, 1]]) };
      }
      case 'sequence':
        return part.parts.reduce((before, next) => follow(before, build(next)), NOTHING);
      case 'either':
        return part.parts.map(build).reduce(eitherOf);
      case 'repeat':
        return repeat(part);
      default:
        // An assertion only ends ways.
        return NOTHING;
    }
  };

  const repeat = ({ of, min, max }: Extract<Node, { type: 'repeat' }>): Part => {
    if (max === 0) return NOTHING;
    if (isWrittenOut({ min, max }, copies)) {
      let all = NOTHING;
      const ends: Part[] = min === 0 ? [all] : [];
      for (let copy = 1; copy <= max; copy++) {
        all = follow(all, build(of));
        if (copy >= min) ends.push(all);
      }
      // Whichever copy is the last.
      return ends.slice(1).reduce((one, other) => ({ ...eitherOf(one, other), first: all.first }), ends[0] as Part);
    }
    const once = build(of);
    if (once.empty > 0) throw new Unshown('what is repeated may be empty');
    join(once.last, once.first);
    return { ...once, empty: min === 0 ? 1 : 0 };
  };

  build(node);
  return { sets, steps };
}

const NOTHING: Part = { empty: 1, first: new Map(), last: new Map() };

function eitherOf(one: Part, two: Part): Part {
  return { empty: one.empty + two.empty, first: sumOf(one.first, two.first), last: sumOf(one.last, two.last) };
}

function sumOf(one: Ways, two: Ways): Ways {
  const sum = new Map(one);
  for (const [state, ways] of two) sum.set(state, (sum.get(state) ?? 0) + ways);
  return sum;
}

function scaled(ways: Ways, by: number): Ways {
  return by === 0 ? new Map() : new Map([...ways].map(([state, count]) => [state, count * by]));
}
