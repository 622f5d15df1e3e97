import { type BerthBooking, berthBooking } from '@pellwick/marina';
import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express';
import type { Finding, Unsettled, Verdict } from 'jestril';
import { formObject } from 'jestril/form';
import { localeFor } from 'jestril/locale';
import { sqliteRecords } from 'jestril/sql';
import { keepBooking, listBerths, listBookings, type Store } from './store.ts';

const FORM = 'application/x-www-form-urlencoded';
/** Of a body; a booking of twelve people takes 2 kB. */
const MOST_BYTES = '100kb';
/** What the intake speaks, the first where a browser asks for none of them. */
const LANGUAGES = ['en', 'de', 'pl'] as const;
/** Stands in for the marina's sign-in: everybody who reaches the desk is this guest. */
const GUEST = { id: 1, staff: false };

/** The booking desk's API, and the page when its folder is given. */
export function bookingDesk(store: Store, pageFolder?: string): Express {
  const app = express().disable('x-powered-by');
  app.use('/api', express.json({ limit: MOST_BYTES, strict: false }), express.text({ type: FORM, limit: MOST_BYTES }));
  app.get('/api/berths', async (_request, response) => void response.json(await listBerths(store)));
  app.get('/api/bookings', async (_request, response) => void response.json(await listBookings(store)));
  app.post('/api/bookings', (request, response) => book(store, request, response));
  app.use('/api', (_request, response) => problem(response, 404, 'There is nothing at this address.'));
  if (pageFolder) app.use(express.static(pageFolder));
  app.use(answerError);
  return app;
}

async function book(store: Store, request: Request, response: Response): Promise<void> {
  const isForm = request.is(FORM) !== false;
  if (!isForm && request.is('json') === false) return problem(response, 415, `Send the booking as application/json or as ${FORM}.`);
  const submission = isForm ? formObject(new URLSearchParams(request.body as string)) : (request.body as unknown);

  // Judged and kept in one transaction: nobody can take the berth in between.
  const { verdict, id } = await store.transaction().execute(async (transaction) => {
    const verdict = await berthBooking.judge(submission, {
      records: sqliteRecords(transaction),
      as: isForm ? 'form' : 'json',
      report: 'firstOfEach',
      locale: localeFor(request.headers['accept-language'], LANGUAGES),
      given: { caller: GUEST },
    });
    return { verdict, id: verdict.outcome === 'accepted' ? await keepBooking(transaction, verdict.value) : undefined };
  });
  answer(response, verdict, id);
}

function answer(response: Response, verdict: Verdict<BerthBooking>, id: number | undefined): void {
  switch (verdict.outcome) {
    case 'accepted': {
      const { gateCode: _secret, ...booking } = verdict.value;
      response
        .status(201)
        .location(`/api/bookings/${id}`)
        .json({ id, ...booking });
      return;
    }
    case 'rejected':
      return problem(response, 422, 'The booking cannot be made as it is.', { findings: verdict.findings.map(brief), more: verdict.more });
    case 'undecided':
      logUnsettled(verdict.unsettled);
      response.set('Retry-After', '5');
      return problem(response, 503, 'The booking could not be checked just now. Please send it again in a moment.');
  }
}

/** What a client needs of a finding. */
function brief({ rule, places, facts, message }: Finding) {
  return { rule, pointers: places.map(({ pointer }) => pointer), facts, message };
}

function logUnsettled(unsettled: readonly Unsettled[]): void {
  for (const { use, why } of unsettled) console.error(`Not decided: ${use}, ${why}`);
}

/** Problem details (RFC 9457). */
function problem(response: Response, status: number, title: string, more: object = {}): void {
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: 'about:blank', title, status, ...more }));
}

const BODY_PROBLEMS: { readonly [type: string]: readonly [status: number, title: string] } = {
  'entity.parse.failed': [400, 'The body is not JSON.'],
  'entity.too.large': [413, `The body is larger than ${MOST_BYTES}.`],
  'charset.unsupported': [415, 'Send the body as UTF-8.'],
  'encoding.unsupported': [415, 'The content encoding of the body is not supported.'],
};

const answerError: ErrorRequestHandler = (error: { type?: string; status?: number }, _request, response, _next) => {
  const [status, title] = BODY_PROBLEMS[error.type ?? ''] ?? [error.status ?? 500, 'The request could not be handled.'];
  if (status >= 500) console.error(error);
  problem(response, status, title);
};
