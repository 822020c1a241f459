import express, { Router, type RequestHandler } from 'express';
import { sql } from 'drizzle-orm';
import { MAX_SEQUENCE_FILE, namesOf, sequenceFileSchema, type VersionRow } from '@ascenso/contracts';
import { changes, emailSteps, traceNames, type Sequence } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { whoAsks } from '../app/sessions.ts';
import { firstRow, rows } from '../db/rows.ts';
import { exportSequence, importSequence } from '../db/sequence-file.ts';
import { loadNamed } from '../db/surroundings.ts';
import { transact } from '../db/transact.ts';

interface Row {
  number: number;
  doc: Sequence;
  published_at: number;
  by: string | null;
  inside: number;
  sent: number;
}

/** What has been published of a sequence, and the sequence as a file. */
export function versionsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/sequences/:id/export', {}, ({ ws, params }) =>
    exportSequence(db, ws, params.id as string),
  );

  // A file with its pictures is larger than any other request.
  const signedIn: RequestHandler = async (req, _res, next) => {
    if (!(await whoAsks(db, req))) throw new UserError(401, 'signed-out', 'You are signed out. Sign in to go on.');
    next();
  };
  router.post('/sequences/import', signedIn, express.json({ limit: MAX_SEQUENCE_FILE }));
  route(router, ctx, 'post', '/sequences/import', { body: sequenceFileSchema }, async ({ ws, body }) => {
    const now = await businessNow(db);
    return { id: await transact(db, (tx) => importSequence(tx, ws, body, now)) };
  });

  route(router, ctx, 'get', '/sequences/:id/versions', {}, async ({ ws, params, me }) => {
    if (!(await firstRow(db, sql`select 1 from sequences where workspace_id = ${ws} and id = ${params.id}`)))
      throw notFound('sequence');
    const found = await rows<Row>(
      db,
      sql`select v.number, v.doc, v.published_at, u.name as by,
            (select count(*) from visits i where i.workspace_id = v.workspace_id and i.sequence_id = v.sequence_id and i.version = v.number and i.status = 'active') as inside,
            (select count(*) from sends s where s.workspace_id = v.workspace_id and s.sequence_id = v.sequence_id and s.version = v.number and s.status = 'sent' and s.visit_id is not null) as sent
          from versions v left join users u on u.id = v.published_by
          where v.workspace_id = ${ws} and v.sequence_id = ${params.id} order by v.number desc`,
    );
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
    const row = await firstRow<{ doc: Sequence }>(
      db,
      sql`select doc from versions where workspace_id = ${ws} and sequence_id = ${params.id} and number::text = ${params.number}`,
    );
    if (!row) throw notFound('version');
    return { sequence: row.doc };
  });
  return router;
}
