import { RE2JS } from 're2js';
import { fault } from '../core/basics/fault.ts';
import type { Texts } from '../core/basics/text.ts';
import type { ValueRule, ValueUse } from '../core/declared/rule.ts';
import { valueRule } from '../core/rules/value-rule.ts';

interface LinearTakes {
  readonly engine: RE2JS;
  readonly description: Texts;
}

const matching = valueRule('pattern', ['text'], {
  check: (value: string, { engine }: LinearTakes) => engine.matcher(value).find(),
  words: ({ description }) => ({ description }),
  wordNames: ['description'],
  message: { en: '{field} must be {description}.' },
});

/**
 * Text that the expression matches, by an engine that takes linear time for every expression it knows (re2js, which the
 * application installs). It knows no looking ahead or behind and no referring back, its `\s` and `.` know ASCII line
 * ends only, and it is slower than the browser's own. Where `pattern` takes an expression, prefer that.
 */
export function linearPattern(expression: RegExp, description: Texts, use?: ValueUse): ValueRule<'text'> {
  if (!(expression instanceof RegExp)) fault('linearPattern needs a regular expression as its first argument.');
  if (!description) fault(`linearPattern ${expression} needs a description in words, such as 'four digits'.`);
  return matching({ engine: compile(expression), description }, use);
}

function compile(expression: RegExp): RE2JS {
  const flag = /[^imsu]/.exec(expression.flags)?.[0];
  if (flag) fault(`linearPattern ${expression}: the flag ${flag} is not known.`);
  const flags =
    (expression.ignoreCase ? RE2JS.CASE_INSENSITIVE : 0) |
    (expression.multiline ? RE2JS.MULTILINE : 0) |
    (expression.dotAll ? RE2JS.DOTALL : 0);
  try {
    return RE2JS.compile(RE2JS.translateRegExp(expression.source), flags);
  } catch (cause) {
    return fault(`linearPattern ${expression}: the linear-time engine does not know this expression (${(cause as Error).message}).`);
  }
}
