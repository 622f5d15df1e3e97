import { choice, collection, flag, group, intake, list, oneOfShapes, shape, text, unique, whole } from 'jestril';
import { bindForm } from 'jestril/browser';
import { de, pl } from 'jestril/catalogues';
import { fillIn } from './crossed.ts';

// A page for the tests: two forms of one intake, with controls of awkward names.

const owners = collection('owners', { id: whole, email: text, town: text }, { key: 'id' });
const form = intake(
  'form',
  {
    name: text('Name'),
    id: text('Id').orAbsent(),
    elements: text('Elements').orAbsent(),
    submit: text('Submit').orAbsent(),
    email: text('E-mail').orAbsent(),
    hidden: text('Hidden part').orAbsent(),
    action: choice('Action', ['draft', 'send']).orAbsent(),
    terms: flag('Terms').orAbsent(),
    tags: list('Tags', text('Tag')).entryLabel('Tag number {number}').orEmpty(),
    crew: list('Crew', group('Crew member', { name: text('Name') }))
      .blankRowsDropped()
      .orEmpty(),
    pay: oneOfShapes('Pay', 'by', { card: shape({ pin: text('Pin').secret() }), cash: shape({ note: text('Note') }) }).orAbsent(),
  },
  { rules: [unique(owners, { email: 'email', town: 'elements' })], catalogues: [de, pl] },
);

const sent: [string, string][][] = [];
const answers: { status: number; body: object }[] = [];
const bound = [...document.forms].map((each) =>
  bindForm(each, form, {
    judgeAt: '/judge',
    wait: 10,
    locale: () => document.documentElement.lang,
    async send(data) {
      sent.push([...data] as [string, string][]);
      const { status, body } = answers.shift() ?? { status: 200, body: {} };
      return new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/problem+json' } });
    },
  }),
);
// No code may be made in this page: the loop goes on.
const { outcome } = intake('busy', { name: text('Name') }, { code: 'at-once' }).judgeLocally({ name: 'Ida' });
let refusal = '';
try {
  new Function('');
} catch (error) {
  refusal = (error as Error).name;
}
Object.assign(window, { fillIn, sent, answers, bound, judged: [outcome, refusal] });
