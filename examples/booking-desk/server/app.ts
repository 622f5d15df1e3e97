import { join } from 'node:path';
import { certifiedRegistration, deskBooking, deskPowerOrder, ownerSignUp, totalOf } from '@pellwick/marina';
import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express';
import { type LogAbout, type LogEntry, type ReceiveOptions, receive } from 'jestril/express';
import { type ShownForm, shownForm } from 'jestril/form';
import { sqliteRecords } from 'jestril/sql';
import { explain, explanationFor, watched } from './explained.ts';
import { cookieFor, guarded, ownPath, sameOrigin, seldom } from './guard.ts';
import { PEOPLE, type Person, personOf, signedOut, signIn, typedIn } from './identity.ts';
import { bookingPage, type Change, type More } from './pages/booking.ts';
import { homePage, problemPage, signInPage } from './pages/home.ts';
import { LANGUAGES, languageOf, SIGN_IN } from './pages/language.ts';
import { panel } from './pages/panel.ts';
import { powerPage, type Quote } from './pages/power.ts';
import { signUpPage } from './pages/sign-up.ts';
import { vesselPage } from './pages/vessel.ts';
import { hashOf } from './phrase.ts';
import { receivedRegistration } from './registration.ts';
import * as kept from './store.ts';

export interface DeskOptions {
  /** Sign-ups, and questions whether an address is taken, that one sender may make in a minute. Defaults to 60. */
  readonly attempts?: number;
  /** Where the built style and script are. */
  readonly assets?: string;
  readonly log?: (entry: LogEntry, about: LogAbout<Request, unknown>) => void;
}

/** The front office: the same addresses answer browsers with pages and programs with JSON. */
export function bookingDesk(store: kept.Store, { assets, attempts = 60, log = () => undefined }: DeskOptions = {}): Express {
  const app = express().disable('x-powered-by');
  app.use(guarded);
  const records = sqliteRecords(store);
  /** What all routes have in common; everything that is sent is explained in the panel. */
  const common = {
    records: ({ request }: { readonly request: Request }) => watched(request, records),
    explain: true,
    locale: languageOf,
    statuses: { 'lost-race': 409 },
    log,
    answer(problem, { kind, request, verdict, form }) {
      explain(request, problem.status, verdict, form);
      const isBrowser = request.accepts(['json', 'html']) === 'html';
      const location = `/sign-in?to=${encodeURIComponent(request.path)}`;
      return kind === 'unknown-caller' && isBrowser ? { status: 303, headers: { location }, body: '' } : undefined;
    },
  } satisfies ReceiveOptions<Request, unknown>;
  const signedIn = { ...common, caller: personOf, challenge: 'Bearer realm="Pellwick Marina"' };
  const asCaller = { ...signedIn, given: ({ caller: { id, staff } }: { readonly caller: Person }) => ({ caller: { id, staff } }) };
  const nothing = () => ({});

  if (assets) app.use('/assets', express.static(join(assets, 'assets')));
  app.get('/', async (request, response) => void response.send(await homePage(request, await kept.listBookings(store))));
  app.get('/panel', async (request, response) => void response.send(String(await panel(explanationFor(request), languageOf(request)))));
  app.get('/language/:code', (request, response) => {
    const { to } = request.query;
    if (LANGUAGES.includes(request.params.code as never)) response.cookie('language', request.params.code, cookieFor(request));
    response.redirect(ownPath(to));
  });
  app.get('/sign-in', async (request, response) => void response.send(await signInPage(request)));
  app.post('/sign-in', sameOrigin, express.urlencoded({ extended: false }), (request, response) => {
    const { id: chosen, to } = request.body ?? {};
    const person = PEOPLE.find(({ id }) => String(id) === chosen);
    if (!person) return response.redirect('/sign-in');
    signIn(request, response, person);
    response.redirect(ownPath(to));
  });

  // Whether an address is taken is told to whoever asks: seldom enough that nobody learns them all.
  app.post(['/sign-up', '/sign-up/check'], seldom(attempts));
  app.get('/sign-up', async (request, response) => void response.send(await signUpPage(request, shownForm(ownerSignUp))));
  app.post(
    '/sign-up',
    receive(
      ownerSignUp,
      {
        ...common,
        page: ({ request, form, problem }) => signUpPage(request, form, problem.title),
        store: async (owner, { transaction }) => kept.keepOwner(transaction, owner, await hashOf(owner.passphrase)),
      },
      async (owner, received) => {
        explain(received.request, 201, received.verdict, received.form);
        const id = received.stored;
        signIn(received.request, received.response, { id, name: owner.name });
        return { location: `/?done=welcome&id=${id}`, body: { id, name: owner.name } };
      },
    ),
  );
  app.post('/sign-up/check', receive(ownerSignUp, common, nothing));

  app.get('/vessels/new', async (request, response) => void response.send(await vesselPage(request, shownForm(certifiedRegistration))));
  app.post(
    '/vessels',
    receive(
      receivedRegistration,
      {
        ...signedIn,
        // Above what a certificate may have, so that one that is too large is found at its field and the rest is kept.
        limits: { fileBytes: 20_000_000 },
        page: ({ request, form, problem }) => vesselPage(request, form, problem.title),
        store: (vessel, { transaction, caller }) => kept.keepVessel(transaction, caller.id, vessel),
      },
      async (vessel, received) => {
        explain(received.request, 201, received.verdict, received.form);
        const id = received.stored;
        return { location: `/?done=registered&id=${id}`, body: { id, mark: vessel.mark } };
      },
    ),
  );
  app.get('/vessels/:id/certificate', async (request, response) => {
    const found = await kept.findCertificate(store, Number(request.params.id));
    const person = personOf(request);
    if (!found?.certificate || !(person?.staff || person?.id === found.ownerId)) return void response.redirect('/');
    // It is for whoever looks after it: saved, and never opened as a page of this site.
    const type = found.certificateType ?? 'application/octet-stream';
    response.attachment(`${found.mark}.${type.split('/')[1]}`).setHeader('content-type', type);
    response.end(Buffer.from(found.certificate));
  });
  app.post('/vessels/check', receive(certifiedRegistration, common, nothing));

  const bookingForm = async (request: Request, form: ShownForm, change?: Change, more?: More) =>
    bookingPage(request, form, await kept.listBerths(store), change, more);
  app.get('/bookings', async (_request, response) => void response.json(await kept.listBookings(store)));
  app.get('/bookings/new', async (request, response) => void response.send(await bookingForm(request, shownForm(deskBooking))));
  // A row more, for a browser without a script: nothing is judged, and what was typed stays.
  const readForm = [sameOrigin, express.urlencoded({ extended: false })];
  const withRow = (request: Request, change?: Change) =>
    bookingForm(request, shownForm(deskBooking, typedIn(request)), change, { rows: 1 });
  app.post('/bookings/new', readForm, async (request: Request, response: Response) => void response.send(await withRow(request)));
  app.post(
    '/bookings',
    signedOut((request, entries) =>
      bookingForm(request, shownForm(deskBooking, entries), undefined, { problem: SIGN_IN[languageOf(request)] }),
    ),
    receive(
      deskBooking,
      {
        ...asCaller,
        page: ({ request, form, problem }) => bookingForm(request, form, undefined, { problem: problem.title }),
        store: (booking, { transaction, caller }) => kept.keepBooking(transaction, caller.id, booking),
      },
      async (booking, received) => {
        explain(received.request, 201, received.verdict, received.form);
        const id = received.stored;
        const { gateCode: _secret, ...shown } = booking;
        return { location: `/?done=booked&id=${id}`, body: { id, ...shown } };
      },
    ),
  );
  app.post('/bookings/check', receive(deskBooking, asCaller, nothing));

  const own = {
    ...asCaller,
    async allows({ caller, params }: { readonly caller: Person; readonly params: { readonly [name: string]: string } }) {
      const found = await kept.findBooking(store, Number(params.id));
      return caller.staff || !found || found.ownerId === caller.id;
    },
  };
  app.get('/bookings/:id', async (request, response) => {
    const found = await kept.findBooking(store, Number(request.params.id));
    const person = personOf(request);
    if (!person) return void response.redirect(`/sign-in?to=${encodeURIComponent(request.path)}`);
    if (!found || !(person.staff || person.id === found.ownerId)) return void response.redirect('/');
    response.send(
      await bookingForm(request, shownForm(deskBooking, found.booking), { id: Number(request.params.id), stored: found.booking }),
    );
  });
  const change = receive(
    deskBooking,
    {
      ...own,
      async amends({ params }) {
        const found = await kept.findBooking(store, Number(params.id));
        return found && { stored: found.booking, itself: { id: Number(params.id) }, complete: true };
      },
      async page({ request, form, params, problem }) {
        const id = Number(params.id);
        return bookingForm(request, form, { id, stored: (await kept.findBooking(store, id))?.booking ?? {} }, { problem: problem.title });
      },
      store: (booking, { transaction, params }) => kept.changeBooking(transaction, Number(params.id), booking),
    },
    async (_booking, received) => {
      explain(received.request, 200, received.verdict, received.form);
      const id = Number(received.params.id);
      return { status: 200, location: `/?done=changed&id=${id}`, body: { id, changed: received.changed } };
    },
  );
  app.post(
    '/bookings/:id',
    // What is stored is shown to nobody who is not signed in: what was typed is kept, and sent again to the same address.
    signedOut((request, entries) =>
      bookingForm(
        request,
        shownForm(deskBooking, entries),
        { id: Number(request.params.id), stored: {} },
        { problem: SIGN_IN[languageOf(request)] },
      ),
    ),
    change,
  );
  app.patch('/bookings/:id', change);
  app.post('/bookings/:id/rows', readForm, async (request: Request, response: Response) => {
    const id = Number(request.params.id);
    const found = await kept.findBooking(store, id);
    const person = personOf(request);
    if (!found || !(person?.staff || person?.id === found.ownerId)) return void response.redirect('/');
    response.send(await withRow(request, { id, stored: found.booking }));
  });

  const powerForm = async (request: Request, form: ShownForm, quote?: Quote, problem?: string) =>
    powerPage(request, form, await kept.listTariffs(store), quote, problem);
  const ofPower = {
    ...common,
    page: ({ request, form, problem }: { request: Request; form: ShownForm; problem: { title: string } }) =>
      powerForm(request, form, undefined, problem.title),
  };
  const quote = receive({ query: deskPowerOrder }, ofPower, async ({ query: order }, received) => {
    explain(received.request, 200, received.verdict, received.form);
    const { request, response, form } = received;
    const total = totalOf({ ...order, price: await kept.priceAt(store, order.plug) });
    if (request.accepts(['json', 'html']) === 'json') return { body: { total } };
    response.send(await powerForm(request, form, { order, total }));
  });
  app.get('/power', async (request, response, next) => {
    if (Object.keys(request.query).length > 0) return quote(request, response, next);
    response.send(await powerForm(request, shownForm(deskPowerOrder, { plug: '16A' })));
  });
  app.post(
    '/power',
    receive(
      deskPowerOrder,
      {
        ...ofPower,
        async store(order, { transaction }) {
          const price = await kept.priceAt(transaction, order.plug);
          const total = totalOf({ ...order, price });
          return { id: await kept.keepPowerOrder(transaction, order, price, total), total };
        },
      },
      (_order, { request, verdict, form, stored: { id, total } }) => {
        explain(request, 201, verdict, form);
        return { location: `/?done=ordered&id=${id}`, body: { id, total } };
      },
    ),
  );

  app.use(async (request, response) => void response.status(404).send(await problemPage(request, 'There is nothing at this address.')));
  app.use(answerError);
  return app;
}

const answerError: ErrorRequestHandler = async (error: { status?: number }, request, response, _next) => {
  console.error(error);
  const status = error.status ?? 500;
  if (request.accepts(['json', 'html']) === 'html')
    return void response.status(status).send(await problemPage(request, 'The desk is closed for a moment.'));
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: 'about:blank', title: 'The desk is closed for a moment.', status }));
};
