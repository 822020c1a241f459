import { randomBytes } from 'node:crypto';
import { Router } from 'express';
import { sql } from 'drizzle-orm';
import multer from 'multer';
import { eventKindRequest, keyRequest, listRequest, senderRequest, styleRequest } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { sha256 } from '../app/hash.ts';
import type { Executor } from '../db/connect.ts';
import { keepFile } from '../db/files.ts';
import { firstRow, rows } from '../db/rows.ts';
import { loadSurroundings } from '../db/surroundings.ts';

const upload = multer({ storage: multer.memoryStorage(), limits: { fileSize: 10_000_000, files: 1 } });

/** A new API key: shown once, kept as its hash. */
export async function makeKey(
  db: Executor,
  ws: string,
  name: string,
  now: number,
): Promise<{ id: string; key: string }> {
  const key = `asc_${randomBytes(24).toString('base64url')}`;
  const id = newId();
  await db.execute(
    sql`insert into api_keys (workspace_id, id, name, hint, hash, created_at) values (${ws}, ${id}, ${name}, ${key.slice(-4)}, ${sha256(key)}, ${now})`,
  );
  return { id, key };
}

export function libraryRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/surroundings', {}, ({ ws }) => loadSurroundings(db, ws));

  route(router, ctx, 'post', '/lists', { body: listRequest }, async ({ ws, body }) => {
    if (
      await firstRow(
        db,
        sql`select 1 from lists where workspace_id = ${ws} and lower(name) = ${body.name.toLowerCase()}`,
      )
    )
      throw invalid('name', 'There is already a list with this name.');
    const id = newId();
    await db.execute(sql`insert into lists (workspace_id, id, name) values (${ws}, ${id}, ${body.name})`);
    return { id };
  });

  route(router, ctx, 'put', '/event-kinds', { body: eventKindRequest }, async ({ ws, body }) => {
    await db.execute(
      sql`insert into event_kinds (workspace_id, name, label, fields, sample, learned) values (${ws}, ${body.name}, ${body.label}, ${JSON.stringify(body.fields)}::jsonb, ${JSON.stringify(body.sample)}::jsonb, false)
          on conflict (workspace_id, name) do update set label = excluded.label, fields = excluded.fields, sample = excluded.sample, learned = false`,
    );
    return {};
  });

  route(router, ctx, 'post', '/senders', { body: senderRequest }, async ({ ws, body }) => {
    const id = newId();
    await db.execute(
      sql`insert into senders (workspace_id, id, name, email, is_default, untouched, fields) values (${ws}, ${id}, ${body.name}, ${body.email}, false, false, ${JSON.stringify(body.fields)}::jsonb)`,
    );
    return { id };
  });

  route(router, ctx, 'put', '/senders/:id', { body: senderRequest }, async ({ ws, params, body }) => {
    const changed = await firstRow(
      db,
      sql`update senders set name = ${body.name}, email = ${body.email}, fields = ${JSON.stringify(body.fields)}::jsonb, untouched = false where workspace_id = ${ws} and id = ${params.id} returning id`,
    );
    if (!changed) throw notFound('sender');
    return {};
  });

  route(router, ctx, 'put', '/style', { body: styleRequest }, async ({ ws, body }) => {
    await db.execute(sql`update workspaces set style = style || ${JSON.stringify(body)}::jsonb where id = ${ws}`);
    return {};
  });

  router.post('/files', upload.single('file'));
  route(router, ctx, 'post', '/files', {}, async ({ ws, req }) => {
    if (!req.file) throw invalid('file', 'No file came along. Choose one.');
    return {
      id: await keepFile(
        db,
        ws,
        Buffer.from(req.file.originalname, 'latin1').toString('utf8'),
        req.file.buffer,
        await businessNow(db),
      ),
    };
  });

  route(router, ctx, 'get', '/keys', {}, async ({ ws }) => ({
    keys: await rows(
      db,
      sql`select id, name, hint, created_at as "createdAt" from api_keys where workspace_id = ${ws} order by created_at`,
    ),
  }));
  route(router, ctx, 'post', '/keys', { body: keyRequest, role: 'owner' }, async ({ ws, body }) =>
    makeKey(db, ws, body.name, await businessNow(db)),
  );
  route(router, ctx, 'delete', '/keys/:id', { role: 'owner' }, async ({ ws, params }) => {
    if (!(await firstRow(db, sql`delete from api_keys where workspace_id = ${ws} and id = ${params.id} returning id`)))
      throw notFound('key');
    return {};
  });
  return router;
}
