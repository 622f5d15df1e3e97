import { readFileSync } from 'node:fs';
import * as jestril from 'jestril';
import { run } from '../../scripts/reference/entries.ts';
import { withFaults } from '../../scripts/reference/faults.ts';
import { cleaning, judgeOf, NOW, referencePage, sections } from '../../scripts/reference/page.ts';
import { withReadings } from '../../scripts/reference/readings.ts';
import type { KindSpec, RoleSpec } from '../../src/core/declared/kind.ts';
import type { Definition } from '../../src/core/declared/rule.ts';
import { KINDS } from '../../src/core/kinds/told.ts';
import { engineIds, sentences, tooMuchWork } from '../../src/core/messages/catalogue.ts';
import { SHIPPED, wordsIn } from '../../src/core/messages/catalogues/shipped.ts';
import { slotsOf } from '../../src/core/messages/slots.ts';
import { checkDefinition } from '../../src/core/rules/definition.ts';
import { NO_OBJECT } from '../../src/core/run/raw.ts';
import { type ProblemKind, titleIn } from '../../src/http/receive/problem.ts';

const entries = sections.flatMap((section) => section.entries);

test('the pages are up to date', async () => {
  expect(readFileSync('docs/reference.md', 'utf8')).toBe(await referencePage());
  const reading = readFileSync('docs/reading.md', 'utf8');
  expect(reading).toBe(withReadings(reading));
  const faults = readFileSync('docs/faults.md', 'utf8');
  expect(faults).toBe(withFaults(faults));
});

test.each(entries.map((entry) => [entry.name, entry] as const))(
  '%s: one example holds, one fails with its own finding',
  async (name, entry) => {
    const judge = judgeOf(entry);
    expect((await judge(entry.holds)).outcome).toBe('accepted');
    const verdict = await judge(entry.fails);
    const rules = verdict.outcome === 'rejected' ? verdict.findings.map(({ rule }) => rule) : [];
    const id = name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
    expect(rules).toEqual([expect.stringMatching(new RegExp(`^(readable|tag|${id})$`))]);
  },
);

test.each(cleaning.map((entry) => [entry.name, entry] as const))('%s: cleaning what is clean changes nothing', async (_name, entry) => {
  const judge = judgeOf(entry);
  for (const raw of [entry.holds, ' <b>É\r\n\u0000&amp; \u202e x ', 'İSTANBUL ﬁ']) {
    const once = await judge(String(raw).replaceAll('\0', ''));
    const value = once.outcome === 'accepted' ? once.value.value : undefined;
    expect(await judge(value)).toMatchObject({ outcome: 'accepted', value: { value } });
  }
});

test('every exported rule, kind and cleaning step stands on the page', () => {
  const notRules = [
    'Fault',
    'intake',
    'isIntake',
    'shape',
    'labelled',
    'rule',
    'collection',
    'maybe',
    'entries',
    'addDays',
    'nightsBetween',
    'exactly',
    'ignoringCase',
    'notAbove',
    'notBelow',
    'both',
    'either',
    'column',
    'cached',
    'receivedFile',
    'exactSum',
    'compareExact',
    'sumBy',
    'countBy',
    'inThis',
    'inSame',
    'amendLocally',
    'graphOf',
    'inspect',
    'fingerprintOf',
    'readersOf',
    'refusalOf',
  ];
  const conditions = ['fromDay', 'untilDay', 'allOf', 'anyOf', 'condition', 'equals', 'not', 'occasionIs', 'present', 'when'];
  const helpers = [
    'today',
    'daysFromToday',
    'yearsBeforeToday',
    'now',
    'minutesFromNow',
    'asMermaid',
    'asCompact',
    'asLines',
    'asText',
    'byPlace',
    'checkStore',
    'locksFor',
    'mergePatch',
    'refused',
    'asStored',
  ];
  const named = [...entries, ...cleaning].map(({ name }) => name);
  expect(Object.keys(jestril).filter((name) => ![...notRules, ...conditions, ...helpers, ...named].includes(name))).toEqual([]);
});

/** What the rules of an entry are, as the run time sees them. */
function definitionsOf(code: string): Definition[] {
  const made = run(code);
  const rules = Array.isArray(made) ? made[1] : (made as { spec: { steps: object[] } }).spec.steps;
  const inside = (each: { rule?: Definition; rules?: { rule: Definition }[] }) =>
    each.rule ? [each.rule] : (each.rules ?? []).map(({ rule }) => rule);
  return (rules as object[]).flatMap(inside);
}

test.each(entries.map((entry) => [entry.name, entry] as const))('%s: what it says of itself agrees', (_name, entry) => {
  const at = { today: '2031-04-30', now: NOW } as never;
  for (const definition of definitionsOf(entry.code)) {
    // Ready-made rules are not checked each time that they are loaded.
    checkDefinition(definition);
    const [step] = Array.isArray(run(entry.code)) ? [] : (run(entry.code) as { spec: { steps: { takes: never }[] } }).spec.steps;
    if (!definition.check || !step) continue;
    const { kind } = (run(entry.code) as { spec: { kind: KindSpec } }).spec;
    const { bounds = [] } = definition.edges?.(step.takes, at) ?? {};
    // What holds changes at every bound that a rule tells of.
    for (const bound of bounds)
      expect(new Set(kind.around?.(bound).map((value) => definition.check?.(value as never, step.takes, at))).size).toBe(2);
  }
});

test('every kind tells what descriptions, exports, drafts and the workbench say of it', () => {
  const made = Object.entries(jestril).filter(([, kind]) => typeof kind === 'function' && 'spec' in kind);
  // In src/core/kinds/told.ts.
  expect(KINDS.map(({ made: name }) => name).sort()).toEqual(made.map(([name]) => name).sort());
});

describe.each(SHIPPED)('the catalogue $locale', ({ locale, messages }) => {
  const stated = new Map<string, string>(engineIds.map((id) => [id, sentences[id].en]));
  stated.set('too-many/work', tooMuchWork.en);
  stated.set(NO_OBJECT.entry, NO_OBJECT.says.en);
  const note = (text: unknown, id: string) => stated.set(id, (text as { en: string }).en);
  for (const kind of Object.values(jestril)) {
    if (typeof kind !== 'function' || !('spec' in kind)) continue;
    const { spec } = kind as unknown as RoleSpec;
    note(spec.says, `readable/${spec.name}`);
    for (const [hint, said] of Object.entries(spec.hints ?? {})) note(said, `readable/${spec.name}/${hint}`);
  }
  for (const { code } of entries) {
    for (const rule of definitionsOf(code)) if (!rule.id.startsWith('satisfies')) note(rule.message, rule.id);
  }
  test('has a sentence for everything that can be said, and for nothing else', () => {
    // What a server says of requests, a page of answers, words within sentences, and a rule that needs a package of its own.
    const others = Object.keys(messages).filter((id) => /^(problem|page|on-weekdays|character-mix)\/|^file-content$/.test(id));
    expect(Object.keys(messages).sort()).toEqual([...stated.keys(), ...others].sort());
    expect(others).toHaveLength(30);
  });

  test('has words for every kind, and none that are the English ones', () => {
    const { kinds, ...words } = wordsIn(locale);
    const { kinds: _none, ...english } = wordsIn('en');
    expect(Object.keys(kinds).sort()).toEqual(KINDS.map(({ spec }) => spec.name).sort());
    expect(Object.keys(words)).toEqual(Object.keys(english));
    for (const [name, word] of Object.entries(words))
      if (typeof word === 'string') expect([name, word]).not.toEqual([name, english[name as never]]);
  });

  test('answers with titles of its own', () => {
    for (const [entry, title] of Object.entries(messages).filter(([id]) => id.startsWith('problem/'))) {
      const kind = entry.slice('problem/'.length) as ProblemKind;
      expect(titleIn(locale, kind)).toBe(title);
      expect(titleIn('en', kind)).not.toBe(title);
    }
  });

  test.each([...stated])('%s tells the same as the English sentence', (id, english) => {
    expect([...slotsOf(messages[id] as string)].sort()).toEqual([...slotsOf(english)].sort());
  });

  test('speaks for every example of the page', async () => {
    for (const entry of entries.filter(({ name }) => !name.startsWith('satisfies') && name !== 'ownKind')) {
      const own = await judgeOf(entry, { catalogues: SHIPPED })(entry.fails, locale);
      const english = await judgeOf(entry)(entry.fails);
      const said = [own, english].map((verdict) => (verdict.outcome === 'rejected' ? verdict.findings[0]?.message : undefined));
      expect([entry.name, said[0]]).not.toEqual([entry.name, said[1]]);
      expect(said[0]).not.toMatch(/[{}]|undefined/);
    }
  });
});

test('every rule about text takes hostile text of 100,000 characters in its stride', async () => {
  const hostile = ['a', '1', '-', '.', '@', ':', '%', '=', '[', '{"a":', ' ', 'é', '⛵', 'a@', '1.', 'x-', '::', '\\', 'http://', '+1'].map(
    (unit) => unit.repeat(Math.ceil(100_000 / unit.length)),
  );
  for (const entry of sections[1]?.entries ?? []) {
    const judge = judgeOf(entry);
    for (const text of hostile) for (const raw of [text, `a@${text}`, `${text}!`]) expect((await judge(raw)).outcome).not.toBe('undecided');
  }
});

test('the clock of the page is the thirtieth in Oslo', () => {
  expect(
    jestril
      .intake('i', { d: jestril.day('D', jestril.notBefore(jestril.today)) }, { zone: 'Europe/Oslo' })
      .judgeLocally({ d: '2031-04-30' }, { now: NOW }).outcome,
  ).toBe('accepted');
});
