import { automatonOf, type Copies } from './automaton.ts';
import { checkGrowth } from './growth.ts';
import { type Node, parsePattern, Unshown } from './syntax.ts';
import { measure, openWays } from './ways.ts';

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
  checkGrowth(automatonOf(node, copies));
}
