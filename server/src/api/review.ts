import { Router } from 'express';
import { sql } from 'drizzle-orm';
import {
  approvalRequest,
  commentRequest,
  markRequest,
  resolveRequest,
  sharedOf,
  type HistoryRow,
  type ReviewAnswer,
} from '@ascenso/contracts';
import { applyCommands, contentSign, findStep, type Command, type EmailStep } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import type { Executor } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { getSequence } from '../db/sequences.ts';
import { loadSurroundings } from '../db/surroundings.ts';

async function mustBeEmail(db: Executor, ws: string, id: string, step: string): Promise<EmailStep> {
  const found = findStep((await getSequence(db, ws, id)).draft, step)?.step;
  if (found?.kind !== 'email') throw notFound('email');
  return found;
}

/** A state of a draft at least so far from the next is kept as one of its own, ms. */
const APART = 10 * 60_000;

/** What colleagues say about an email, its approval, and what the draft was like before. */
export function reviewRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/sequences/:id/steps/:step/review', {}, async ({ ws, params }): Promise<ReviewAnswer> => {
    await mustBeEmail(db, ws, params.id as string, params.step as string);
    const here = sql`workspace_id = ${ws} and sequence_id = ${params.id} and step = ${params.step}`;
    const comments = await rows<ReviewAnswer['comments'][number]>(
      db,
      sql`select c.id, c.block, c.text, u.name as by, c.at, c.resolved_at as "resolvedAt" from (select * from comments where ${here}) c join users u on u.id = c.user_id order by c.at, c.id`,
    );
    const approval = await firstRow<NonNullable<ReviewAnswer['approval']>>(
      db,
      sql`select a.status, a.sign, a.at, u.name as by from (select * from approvals where ${here}) a join users u on u.id = a.user_id`,
    );
    return { comments, approval: approval ?? null };
  });

  // Saying something and approving needs no right to edit: that is what a reviewer is for.
  route(
    router,
    ctx,
    'post',
    '/sequences/:id/steps/:step/comments',
    { body: commentRequest, role: 'reviewer' },
    async ({ ws, me, params, body }) => {
      await mustBeEmail(db, ws, params.id as string, params.step as string);
      const id = newId();
      await db.execute(
        sql`insert into comments (workspace_id, id, sequence_id, step, block, user_id, text, at)
          values (${ws}, ${id}, ${params.id}, ${params.step}, ${body.block}, ${me.user.id}, ${body.text}, ${await businessNow(db)})`,
      );
      return { id };
    },
  );

  route(
    router,
    ctx,
    'patch',
    '/comments/:id',
    { body: resolveRequest, role: 'reviewer' },
    async ({ ws, params, body }) => {
      const changed = await firstRow(
        db,
        sql`update comments set resolved_at = ${body.resolved ? await businessNow(db) : null} where workspace_id = ${ws} and id = ${params.id} returning id`,
      );
      if (!changed) throw notFound('comment');
      return {};
    },
  );

  route(
    router,
    ctx,
    'put',
    '/sequences/:id/steps/:step/approval',
    { body: approvalRequest, role: 'reviewer' },
    async ({ ws, me, params, body }) => {
      const step = await mustBeEmail(db, ws, params.id as string, params.step as string);
      const sign = contentSign(step.email, sharedOf(await loadSurroundings(db, ws)));
      await db.execute(
        sql`insert into approvals (workspace_id, sequence_id, step, status, sign, user_id, at)
          values (${ws}, ${params.id}, ${params.step}, ${body.status}, ${sign}, ${me.user.id}, ${await businessNow(db)})
          on conflict (workspace_id, sequence_id, step) do update set status = excluded.status, sign = excluded.sign, user_id = excluded.user_id, at = excluded.at`,
      );
      return {};
    },
  );

  /** States that a draft was in: those with a name, and of the others the last one before every pause of ten minutes. */
  route(router, ctx, 'get', '/sequences/:id/history', {}, async ({ ws, params }) => {
    await getSequence(db, ws, params.id as string);
    const found = await rows<HistoryRow>(
      db,
      sql`select l.revision, l.at, u.name as by, m.name from draft_log l join users u on u.id = l.user_id
          left join marks m on m.workspace_id = l.workspace_id and m.sequence_id = l.sequence_id and m.revision = l.revision
          where l.workspace_id = ${ws} and l.sequence_id = ${params.id} order by l.revision desc limit 2000`,
    );
    const kept = found.filter((h, i) => i === 0 || h.name !== null || (found[i - 1]?.at ?? 0) - h.at >= APART);
    return { history: kept.slice(0, 100) };
  });

  route(router, ctx, 'get', '/sequences/:id/history/:number', {}, async ({ ws, params }) => {
    const { draft, revision } = await getSequence(db, ws, params.id as string);
    const wanted = Number(params.number);
    if (!Number.isInteger(wanted) || wanted < 0 || wanted > revision)
      throw invalid('number', 'There is no such state of this draft.');
    const back = await rows<{ inverses: Command[] }>(
      db,
      sql`select inverses from draft_log where workspace_id = ${ws} and sequence_id = ${params.id} and revision > ${wanted} order by revision desc`,
    );
    return { sequence: back.reduce((doc, { inverses }) => applyCommands(doc, inverses).doc, draft) };
  });

  route(router, ctx, 'post', '/sequences/:id/marks', { body: markRequest }, async ({ ws, me, params, body }) => {
    const { revision } = await getSequence(db, ws, params.id as string);
    await db.execute(
      sql`insert into marks (workspace_id, sequence_id, revision, name, user_id, at) values (${ws}, ${params.id}, ${revision}, ${body.name}, ${me.user.id}, ${await businessNow(db)})
          on conflict (workspace_id, sequence_id, revision) do update set name = excluded.name`,
    );
    return { revision };
  });
  return router;
}
