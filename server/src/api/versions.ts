import express, { Router } from 'express';
import { MAX_SEQUENCE_FILE, importedFileSchema, namesOf, type VersionRow } from '@ascenso/contracts';
import { changes, emailSteps, traceNames, type Sequence } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { editorsOnly, route } from '../app/routes.ts';
import { hasSequence, listVersions, versionDoc } from '../db/sequences.ts';
import { exportSequence, importSequence } from '../db/sequence-file.ts';
import { loadNamed } from '../db/surroundings.ts';
import { transact } from '../db/transact.ts';

/** What has been published of a sequence, and the sequence as a file. */
export function versionsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/sequences/:id/export', {}, ({ ws, params }) =>
    exportSequence(db, ws, params.id as string),
  );

  // A file with its pictures is larger than any other request.
  router.post('/sequences/import', editorsOnly(ctx), express.json({ limit: MAX_SEQUENCE_FILE }));
  route(router, ctx, 'post', '/sequences/import', { body: importedFileSchema }, async ({ ws, body }) => {
    const now = await businessNow(db);
    return { id: await transact(db, (tx) => importSequence(tx, ws, body, now)) };
  });

  route(router, ctx, 'get', '/sequences/:id/versions', {}, async ({ ws, params, me }) => {
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    const found = await listVersions(db, ws, params.id as string);
    const words = namesOf(await loadNamed(db, ws));
    const names = (doc: Sequence) => traceNames(doc, words, me.workspace.zone);
    return {
      versions: found.map((v, i): VersionRow => {
        const before = found[i + 1]?.doc;
        return {
          number: v.number,
          at: v.published_at,
          by: v.by,
          inside: v.inside,
          sent: v.sent,
          emails: emailSteps(v.doc).length,
          changes: before ? changes(before, v.doc, { before: names(before), after: names(v.doc) }) : [],
        };
      }),
    };
  });

  route(router, ctx, 'get', '/sequences/:id/versions/:number', {}, async ({ ws, params }) => {
    const sequence = await versionDoc(db, ws, params.id as string, params.number as string);
    if (!sequence) throw notFound('version');
    return { sequence };
  });
  return router;
}
