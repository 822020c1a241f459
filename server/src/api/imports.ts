import { stringify } from 'csv-stringify';
import { Router } from 'express';
import { pipeline } from 'node:stream/promises';
import { importName, importRequest, importRunRequest, type ImportState } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route } from '../app/routes.ts';
import { importOf, listImports, moveImport } from '../db/imports.ts';
import { hasList } from '../db/lists.ts';
import { CSV } from '../jobs/csv.ts';
import { faultsOf, receiveFile } from '../jobs/importing/index.ts';

const PAGE = 1_000;

/** People in by a file: told before, taken in by one job, taken back as a whole. */
export function importsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  const found = async (ws: string, id: string) => {
    const it = await importOf(db, ws, id, await businessNow(db));
    if (!it) throw notFound('import');
    return it;
  };
  const move = async (ws: string, id: string, from: readonly ImportState[], to: ImportState, refusal: string) => {
    await found(ws, id);
    if (!(await moveImport(db, ws, id, from, to))) throw new UserError(409, 'state', refusal);
  };

  route(router, ctx, 'get', '/imports', { role: 'editor' }, async ({ ws }) => ({
    imports: await listImports(db, ws, await businessNow(db)),
  }));

  // The file is the body, so that a million people are read as they come.
  route(router, ctx, 'post', '/imports', {}, async ({ ws, me, query, req }) => {
    const name = parseOrThrow(importName, query.name);
    if (req.is('application/json')) throw invalid('file', 'Send the file itself, as text/csv.');
    return { id: await receiveFile(db, ws, { name, by: me.user.name }, req, await businessNow(db)) };
  });

  route(router, ctx, 'get', '/imports/:id', { role: 'editor' }, ({ ws, params }) => found(ws, params.id as string));

  route(router, ctx, 'post', '/imports/:id/check', { body: importRequest }, async ({ ws, params, body }) => {
    const id = params.id as string;
    const { file } = await found(ws, id);
    const width = file?.rows[0]?.length ?? 0;
    if (body.columns.length !== width)
      throw invalid('columns', `The file has ${width} columns: say for each of them what it becomes.`);
    for (const list of body.lists) if (!(await hasList(db, ws, list))) throw invalid('lists', 'There is no such list.');
    if (!(await moveImport(db, ws, id, ['uploaded', 'checked'], 'checking', body)))
      throw new UserError(409, 'state', 'This file is at work already, or its people are in.');
    return {};
  });

  route(router, ctx, 'post', '/imports/:id/run', { body: importRunRequest }, async ({ ws, params, body }) => {
    const id = params.id as string;
    const { plan } = await found(ws, id);
    if (!plan || !(await moveImport(db, ws, id, ['checked'], 'running', { ...plan, starts: body.starts })))
      throw new UserError(409, 'state', 'Check the file first.');
    return {};
  });

  // Whoever is in already goes again: half a file is nothing.
  route(router, ctx, 'post', '/imports/:id/cancel', {}, async ({ ws, params }) => {
    const id = params.id as string;
    const { state } = await found(ws, id);
    const before = ['uploaded', 'checking', 'checked', 'failed'] as const;
    if (state === 'running') await move(ws, id, ['running'], 'undoing', 'Its people are all in: undo it instead.');
    else await move(ws, id, before, 'cancelled', 'There is nothing under way to cancel.');
    return {};
  });

  route(router, ctx, 'post', '/imports/:id/undo', {}, async ({ ws, params }) => {
    const id = params.id as string;
    const { undoUntil } = await found(ws, id);
    if (undoUntil === null)
      throw new UserError(409, 'state', 'An import can be undone for a week after its people came in.');
    await move(ws, id, ['done'], 'undoing', 'It is being undone already.');
    return {};
  });

  route(router, ctx, 'get', '/imports/:id/faults.csv', { role: 'editor' }, async ({ ws, params, res }) => {
    const id = params.id as string;
    const { name } = await found(ws, id);
    res.type('text/csv').attachment(`${name.replace(/\.[a-z]+$/i, '')} unreadable.csv`);
    await pipeline(
      (async function* () {
        yield ['Line', 'Why', 'Its cells'];
        for (let after = -1; ;) {
          const page = await faultsOf(db, ws, id, after, PAGE);
          for (const f of page) yield [f.line, f.why, ...(f.cells ?? [])];
          const last = page.at(-1);
          if (!last) return;
          after = last.n;
        }
      })(),
      stringify(CSV),
      res,
    );
  });
  return router;
}
