import { Router } from 'express';
import { sql } from 'drizzle-orm';
import {
  fileChange,
  mappingRequest,
  sharedRequest,
  templateRequest,
  wordRequest,
  type TemplateRow,
} from '@ascenso/contracts';
import { emailSteps, type Email, type Sequence } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { usersOfFile } from '../db/file-users.ts';
import { firstRow, rows } from '../db/rows.ts';
import { loadSurroundings } from '../db/surroundings.ts';

const quoted = (names: readonly string[]) => names.map((n) => `“${n}”`).join(', ');

/** What emails are made of beside their words: shared blocks, templates, files, one's own words. */
export function contentRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'post', '/shared', { body: sharedRequest }, async ({ ws, body }) => {
    const id = newId();
    await db.execute(
      sql`insert into shared_blocks (workspace_id, id, name, blocks, updated_at) values (${ws}, ${id}, ${body.name}, ${JSON.stringify(body.blocks)}::jsonb, ${await businessNow(db)})`,
    );
    return { id };
  });

  route(router, ctx, 'put', '/shared/:id', { body: sharedRequest }, async ({ ws, params, body }) => {
    const changed = await firstRow(
      db,
      sql`update shared_blocks set name = ${body.name}, blocks = ${JSON.stringify(body.blocks)}::jsonb, updated_at = ${await businessNow(db)} where workspace_id = ${ws} and id = ${params.id} returning id`,
    );
    if (!changed) throw notFound('shared block');
    return {};
  });

  route(router, ctx, 'delete', '/shared/:id', {}, async ({ ws, params }) => {
    const { shared } = await loadSurroundings(db, ws);
    const known = shared.find((s) => s.id === params.id);
    if (!known) throw notFound('shared block');
    if (known.usedIn.length > 0)
      throw new UserError(
        409,
        'in-use',
        `It stands in ${quoted(known.usedIn.map((u) => u.name))}: take it out there first.`,
      );
    await db.execute(sql`delete from shared_blocks where workspace_id = ${ws} and id = ${params.id}`);
    return {};
  });

  route(router, ctx, 'get', '/templates', {}, async ({ ws, me }) => {
    const found = await rows<{ id: string; name: string; email: Email; owner_id: string | null; updated_at: number }>(
      db,
      sql`select id, name, email, owner_id, updated_at from templates where workspace_id = ${ws} and (owner_id is null or owner_id = ${me.user.id}) order by name`,
    );
    const drafts = await rows<{ id: string; name: string; draft: Sequence }>(
      db,
      sql`select id, name, draft from sequences where workspace_id = ${ws} and status <> 'archived' and draft::text like '%"template"%' order by name`,
    );
    const usedIn = (id: string): TemplateRow['usedIn'] =>
      drafts.flatMap((d) =>
        emailSteps(d.draft)
          .filter((s) => s.email.template === id)
          .map((s) => ({ sequence: d.id, step: s.id, name: `${d.name}: ${s.name}` })),
      );
    const templates: TemplateRow[] = found.map((t) => ({
      id: t.id,
      name: t.name,
      email: t.email,
      private: t.owner_id !== null,
      mine: t.owner_id === me.user.id,
      updatedAt: t.updated_at,
      usedIn: usedIn(t.id),
    }));
    return { templates };
  });

  route(router, ctx, 'post', '/templates', { body: templateRequest }, async ({ ws, me, body }) => {
    const id = newId();
    await db.execute(
      sql`insert into templates (workspace_id, id, name, email, owner_id, updated_at)
          values (${ws}, ${id}, ${body.name}, ${JSON.stringify(body.email)}::jsonb, ${body.private ? me.user.id : null}, ${await businessNow(db)})`,
    );
    return { id };
  });

  route(router, ctx, 'put', '/templates/:id', { body: templateRequest }, async ({ ws, me, params, body }) => {
    const changed = await firstRow(
      db,
      sql`update templates set name = ${body.name}, email = ${JSON.stringify(body.email)}::jsonb, owner_id = ${body.private ? me.user.id : null}, updated_at = ${await businessNow(db)}
          where workspace_id = ${ws} and id = ${params.id} and (owner_id is null or owner_id = ${me.user.id}) returning id`,
    );
    if (!changed) throw notFound('template');
    return {};
  });

  route(router, ctx, 'delete', '/templates/:id', {}, async ({ ws, me, params }) => {
    const gone = await firstRow(
      db,
      sql`delete from templates where workspace_id = ${ws} and id = ${params.id} and (owner_id is null or owner_id = ${me.user.id}) returning id`,
    );
    if (!gone) throw notFound('template');
    return {};
  });

  route(router, ctx, 'patch', '/files/:id', { body: fileChange }, async ({ ws, params, body }) => {
    const changed = await firstRow(
      db,
      sql`update files set name = coalesce(${body.name ?? null}, name), folder = coalesce(${body.folder ?? null}, folder), alt = coalesce(${body.alt ?? null}, alt),
            keywords = coalesce(${body.keywords ? sql.param(body.keywords) : null}::text[], keywords)
          where workspace_id = ${ws} and id = ${params.id} returning id`,
    );
    if (!changed) throw notFound('file');
    return {};
  });

  route(router, ctx, 'delete', '/files/:id', {}, async ({ ws, params }) => {
    const id = params.id as string;
    if (!(await firstRow(db, sql`select 1 from files where workspace_id = ${ws} and id = ${id}`)))
      throw notFound('file');
    const users = await usersOfFile(db, ws, id);
    // An email that has been sent goes on fetching its pictures for years.
    if (users.length > 0)
      throw new UserError(
        409,
        'in-use',
        `It is used in ${quoted(users)}, and emails that were sent still fetch it there.`,
      );
    await db.execute(sql`delete from files where workspace_id = ${ws} and id = ${id}`);
    return {};
  });

  route(router, ctx, 'post', '/words', { body: wordRequest }, async ({ ws, body }) => {
    await db.execute(
      sql`update workspaces set words = array(select distinct unnest(words || ${sql.param([body.word])}::text[]) order by 1) where id = ${ws}`,
    );
    return {};
  });

  route(router, ctx, 'put', '/event-kinds/:name/mapping', { body: mappingRequest }, async ({ ws, params, body }) => {
    const changed = await firstRow(
      db,
      sql`update event_kinds set mapping = mapping || ${JSON.stringify({ [body.list]: body.mapping })}::jsonb where workspace_id = ${ws} and name = ${params.name} returning name`,
    );
    if (!changed) throw notFound('event');
    return {};
  });
  return router;
}
