import { Router } from 'express';
import { sql } from 'drizzle-orm';
import { capRequest, segmentRequest } from '@ascenso/contracts';
import { atomsOf, type Condition, type Sequence } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { countMatching } from '../db/conditions.ts';
import { firstRow, rows } from '../db/rows.ts';
import { webhookSecret } from '../mail/webhook.ts';

/** A segment is about people as they are: not about one passage through a sequence, and not about other segments. */
function checkRule(rule: Condition): void {
  for (const atom of atomsOf(rule)) {
    if (atom.kind === 'segment')
      throw invalid('rule', 'A segment cannot be made of other segments: write their rules out here.');
    if (atom.kind === 'email' || (atom.kind === 'event' && ['entry', 'step'].includes(atom.since.kind)))
      throw invalid('rule', 'A segment is about people, wherever they are: this can only be asked inside a sequence.');
  }
}

/** Names of the sequences whose draft or live version speaks of a segment. */
const usesSql = (ws: string, id: string) =>
  sql`select s.name from sequences s left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
      where s.workspace_id = ${ws} and s.status <> 'archived' and (s.draft::text like ${`%${id}%`} or v.doc::text like ${`%${id}%`}) order by s.name`;

/** Named rules about people, the daily cap, and the secret of webhooks. */
export function segmentsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/segments', {}, async ({ ws }) => {
    const now = await businessNow(db);
    const found = await rows<{ id: string; name: string; rule: Condition }>(
      db,
      sql`select id, name, rule from segments where workspace_id = ${ws} order by name`,
    );
    const segments = [];
    for (const s of found)
      segments.push({
        ...s,
        count: await countMatching(db, ws, s.rule, now),
        usedIn: (await rows<{ name: string }>(db, usesSql(ws, s.id))).map((u) => u.name),
      });
    return { segments };
  });

  route(router, ctx, 'post', '/segments', { body: segmentRequest }, async ({ ws, body }) => {
    checkRule(body.rule);
    const known = await firstRow(
      db,
      sql`select 1 from segments where workspace_id = ${ws} and lower(name) = ${body.name.toLowerCase()}`,
    );
    if (known) throw invalid('name', 'There is already a segment with this name.');
    const id = newId();
    await db.execute(
      sql`insert into segments (workspace_id, id, name, rule, created_at) values (${ws}, ${id}, ${body.name}, ${JSON.stringify(body.rule)}::jsonb, ${await businessNow(db)})`,
    );
    return { id };
  });

  route(router, ctx, 'put', '/segments/:id', { body: segmentRequest }, async ({ ws, params, body }) => {
    checkRule(body.rule);
    const changed = await firstRow(
      db,
      sql`update segments set name = ${body.name}, rule = ${JSON.stringify(body.rule)}::jsonb where workspace_id = ${ws} and id = ${params.id} returning id`,
    );
    if (!changed) throw notFound('segment');
    return {};
  });

  route(router, ctx, 'delete', '/segments/:id', {}, async ({ ws, params }) => {
    const uses = await rows<Pick<Sequence, 'name'>>(db, usesSql(ws, params.id as string));
    if (uses.length > 0)
      throw new UserError(
        409,
        'in-use',
        `This segment is used in ${uses.map((u) => `“${u.name}”`).join(', ')}: take it out there first.`,
      );
    if (!(await firstRow(db, sql`delete from segments where workspace_id = ${ws} and id = ${params.id} returning id`)))
      throw notFound('segment');
    return {};
  });

  route(router, ctx, 'put', '/cap', { body: capRequest, role: 'owner' }, async ({ ws, body }) => {
    await db.execute(sql`update workspaces set daily_cap = ${body.dailyCap} where id = ${ws}`);
    return {};
  });

  route(router, ctx, 'get', '/webhooks/secret', { role: 'owner' }, ({ ws }) =>
    Promise.resolve({ secret: webhookSecret(ctx.sending.secret, ws) }),
  );
  return router;
}
