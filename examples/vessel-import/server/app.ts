import { join } from 'node:path';
import express, { type Express } from 'express';
import { receive } from 'jestril/express';
import { filesIn } from 'jestril/files';
import { shownForm } from 'jestril/form';
import { vesselList } from '../rules.ts';
import { Imports, type Places } from './imports.ts';
import { importPage, uploadPage } from './pages.ts';

/** From a list of vessels to stored rows: it is taken at once, judged in the background, and what is not accepted comes back to be mended. */
export function vesselImport(places: Places): { readonly app: Express; readonly imports: Imports } {
  const imports = new Imports(places);
  const app = express().disable('x-powered-by');
  app.use((_request, response, next) => {
    response.set({
      'x-content-type-options': 'nosniff',
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; img-src data:; form-action 'self'",
    });
    next();
  });
  app.get('/', async (_request, response) => void response.send(await uploadPage(shownForm(vesselList))));
  app.post(
    '/imports',
    receive(
      vesselList,
      {
        files: filesIn(join(places.folder, '..', 'coming')),
        limits: { fileBytes: 60_000_000 },
        page: ({ form, problem }) => uploadPage(form, problem.title),
      },
      // The file is the import's from here on.
      ({ list }) => ({ status: 303, location: `/imports/${imports.begin(String(list.content))}` }),
    ),
  );
  app.get('/imports/:id', async (request, response, next) => {
    const { id } = request.params;
    if (!imports.has(id)) return next();
    response.send(await importPage(id, imports.state(id)));
  });
  app.get('/imports/:id/to-mend.csv', (request, response, next) => {
    const { id } = request.params;
    if (!imports.has(id) || imports.state(id).is !== 'done') return next();
    response.attachment('to-mend.csv').type('text/csv').sendFile(imports.rejectedFile(id));
  });
  return { app, imports };
}
