import { allowed, between, collection, equals, inOrder, intake, known, list, needed, same, text, whole } from 'jestril';
import { descriptionOf, htmlFormOf, jsonSchemaOf, openApiOf, sqlTableOf, typeScriptOf } from 'jestril/describe';
import { controlAttributes } from 'jestril/form';
import { memoryRecords } from 'jestril/memory';
import { prove, type Subject, triedChanges } from 'jestril/proof';
import { guessedFields } from '../../src/cli/new/guessed.ts';
import { namedFields } from '../../src/cli/new/named-fields.ts';
import { Profile } from '../../src/cli/new/profile.ts';
import { shownIntake } from '../../src/cli/serve/bench/shown-intake.ts';
import type { Field } from '../../src/core/declared/field.ts';
import { type Kind, type KindSpec, UNREADABLE } from '../../src/core/declared/kind.ts';
import type { Step } from '../../src/core/declared/rule.ts';
import type { ToldKind } from '../../src/core/declared/told-kind.ts';
import { generate } from '../../src/core/generated/generate.ts';
import { planOf } from '../../src/core/intake.ts';
import { kindBy } from '../../src/core/kinds/field.ts';
import { KINDS } from '../../src/core/kinds/told.ts';
import { builtIntake } from '../../src/drafts/built.ts';
import { DIALECTS } from '../../src/records/sql/writings.ts';

// A kind that is added as CONTRIBUTING says: in one file, and one line. All that takes kinds takes it, by what it says of itself.

declare module '../../src/core/declared/kind.ts' {
  interface KindSpecs {
    colour: typeof spec;
  }
}

const read = (raw: unknown) => (typeof raw === 'string' && /^#[0-9a-f]{6}$/i.test(raw) ? raw : UNREADABLE);
const lightness = (colour: string) => (colour.slice(1).match(/../g) ?? []).reduce((sum, part) => sum + Number.parseInt(part, 16), 0);
const spec = {
  name: 'colour',
  storedAs: 'text',
  is: ['colour'],
  comparable: true,
  isSame: (a, b) => a.toLowerCase() === b.toLowerCase(),
  ordered: 'number',
  compare: (a, b) => lightness(a) - lightness(b),
  listable: true,
  says: { en: '{field} must be a colour, such as #0a3d62.' },
  examples: () => ['#0a3d62', '#ffffff', '#C0392B'],
  schema: { schema: { type: 'string', pattern: '^#[0-9A-Fa-f]{6}$' } },
  control: () => ({ type: 'color' }),
  json: read,
  form: (raw) => read(raw.trim()),
  stored: read,
} satisfies KindSpec<string>;
interface ColourKind extends Kind<'colour', string> {
  (label: string, ...steps: Step<'colour'>[]): Field<'colour', string>;
}
const colour = kindBy<ColourKind>(spec);
const colourTold: ToldKind = {
  spec,
  make: colour,
  made: 'colour',
  called: 'colour',
  // biome-ignore lint/suspicious/noTemplateCurlyInString: a template literal type
  typeScript: '`#${string}`',
  typed: 'colour',
  guess: { says: 'each is a colour' },
};
beforeAll(() => KINDS.push(colourTold));
afterAll(() => KINDS.pop());

const paints = collection('paints', { id: whole, shade: colour }, { key: 'id' });
const records = memoryRecords({ paints: [{ id: 1, shade: '#0a3d62' }] });
const boat = (byCode = false) => {
  const made = intake(
    'boat',
    {
      hull: colour('Hull'),
      again: colour('Hull again'),
      deck: colour('Deck', allowed(['#ffffff', '#0a3d62'])),
      note: text('Note').orAbsent(),
      flags: list('Flags', colour('Flag')).orEmpty(),
    },
    {
      code: 'never',
      rules: [
        same({ first: 'hull', second: 'again' }),
        inOrder({ earlier: 'hull', later: 'deck' }),
        needed('note', { when: equals({ deck: '#FFFFFF' }) }),
        known(paints, { shade: 'hull' }),
      ],
    },
  );
  if (byCode) planOf(made).busy.code = generate(planOf(made));
  return made;
};
const good = { hull: '#0a3d62', again: '#0A3D62', deck: '#ffffff', note: 'gloss' };

test.each([true, false])('rules, conditions and look-ups (by generated code: %s)', async (byCode) => {
  const judged = async (submission: object) => {
    const verdict = await boat(byCode).judge({ ...good, ...submission }, { records });
    return verdict.outcome === 'rejected' ? verdict.findings.map(({ use }) => use) : [verdict.outcome];
  };
  expect(await judged({})).toEqual(['accepted']);
  expect(await judged({ again: '#0a3d63' })).toEqual(['same@again']);
  expect(await judged({ deck: '#123456' })).toEqual(['allowed@deck']);
  expect(await judged({ deck: '#0A3D62' })).toEqual(['in-order@deck']);
  expect(await judged({ note: undefined })).toEqual(['needed@note']);
  expect(await judged({ hull: '#000000', again: '#000000' })).toEqual(['known@hull']);
  expect(await judged({ flags: ['#1'] })).toEqual(['readable@flags.*']);
  expect(boat(byCode).judgeLocally(good, { as: 'form' }).outcome).toBe('undecided');
});

test('it is not compared with another kind, nor added up, nor bounded like a number', () => {
  const fields = { a: colour('A'), b: text('B') };
  // @ts-expect-error: a text is no colour
  expect(() => intake('mixed', fields, { rules: [same({ first: 'a', second: 'b' })] })).toThrow('compares "a"');
  // @ts-expect-error: it cannot be added up
  expect(() => paints.sum({}, 'shade')).toThrow('cannot be summed up');
  expect(paints.highest({}, 'shade')).toBeDefined();
  // @ts-expect-error: a range is one of numbers
  expect(() => intake('ranged', { a: colour('A', between(1, 2)) })).toThrow('and this is colour');
});

test('descriptions and exports', async () => {
  const made = boat();
  const { fields } = await descriptionOf(made);
  expect(fields.map(({ kind }) => kind)).toEqual(['colour', 'colour', 'colour', 'text', 'list', 'colour']);
  expect((await descriptionOf(made, { locale: 'de' })).fields[0]?.kind).toBe('colour');
  expect(jsonSchemaOf(made).schema).toMatchObject({ properties: { hull: { type: 'string', pattern: '^#[0-9A-Fa-f]{6}$' } } });
  const { document } = openApiOf({ title: 'T', version: '1', routes: [{ method: 'post', path: '/boats', intake: made }] });
  expect(JSON.stringify(document)).toContain('^#[0-9A-Fa-f]{6}$');
  expect(typeScriptOf(made)).toMatch(/ {2}hull: `#.{9}`;\n.* {2}flags\?: \(`#.{9}`\)\[\];/s);
  for (const dialect of DIALECTS) expect(sqlTableOf(made, dialect).statement).toMatch(/hull[`"] (text|varchar\(255\)) not null/);
  expect(htmlFormOf(made)).toContain('type="color"');
  expect(controlAttributes(made, '/hull')).toMatchObject({ type: 'color', required: true });
});

test('proofs, and changes that they notice', async () => {
  const subject: Subject = {
    intake: boat(),
    options: { records },
    accepts: [good],
    rejects: [{ submission: { ...good, again: '#0a3d63' }, by: ['same@again'] }],
  };
  const { isProven, problems } = await prove(subject);
  expect([isProven, problems]).toEqual([true, []]);
  const changes = await triedChanges(subject);
  expect(changes.find(({ what }) => what.includes('same'))).toMatchObject({ isNoticed: true });
});

test('drafts from names and from rows, and the workbench', async () => {
  expect(namedFields(['hull:colour'])).toMatchObject({ hull: { kind: 'colour' } });
  const rows = new Profile(false);
  for (const hull of ['#0a3d62', '#C0392B']) rows.add({ hull, name: 'Amber' });
  const { fields } = guessedFields(rows, { count: 2, what: 'rows' });
  expect(fields).toMatchObject({
    hull: { kind: 'colour', remarks: ['Guess: there in all 2 rows; each is a colour.'] },
    name: { kind: 'text' },
  });
  const drafted = builtIntake({ name: 'drafted', fields, rules: [], refusesStrangers: false, remarks: [] });
  expect(drafted.judgeLocally({ hull: '#12', name: 'A' }).outcome).toBe('rejected');
  const shown = await shownIntake(boat() as never, 'en', new Date(0));
  expect(shown.fields.slice(0, 2)).toMatchObject([{ kind: 'colour', sort: 'text' }, { kind: 'colour' }]);
});
