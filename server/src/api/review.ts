import { Router } from 'express';
import { approvalRequest, commentRequest, markRequest, resolveRequest, sharedOf } from '@ascenso/contracts';
import { applyCommands, contentSign, findStep, type EmailStep } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import type { Executor } from '../db/connect.ts';
import {
  addComment,
  resolveComment,
  reviewOf,
  setApproval,
  setMark,
  statesOf,
  wayBack,
  type EmailPlace,
} from '../db/reviews.ts';
import { getSequence } from '../db/sequences.ts';
import { loadAround } from '../db/surroundings.ts';

/** The email that a path speaks of, and where it stands. */
async function emailAt(
  db: Executor,
  ws: string,
  params: Record<string, string>,
): Promise<{ place: EmailPlace; email: EmailStep }> {
  const place = { sequence: params.id as string, step: params.step as string };
  const found = findStep((await getSequence(db, ws, place.sequence)).draft, place.step)?.step;
  if (found?.kind !== 'email') throw notFound('email');
  return { place, email: found };
}

/** A state of a draft at least so far from the next is kept as one of its own, ms. */
const APART = 10 * 60_000;
/** States that are looked through, and those that are shown. */
const LOOKED_AT = 2000;
const SHOWN = 100;

/** What colleagues say about an email, its approval, and what the draft was like before. */
export function reviewRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/sequences/:id/steps/:step/review', {}, async ({ ws, params }) =>
    reviewOf(db, ws, (await emailAt(db, ws, params)).place),
  );

  // Saying something and approving needs no right to edit: that is what a reviewer is for.
  route(
    router,
    ctx,
    'post',
    '/sequences/:id/steps/:step/comments',
    { body: commentRequest, role: 'reviewer' },
    async ({ ws, me, params, body }) => {
      const { place } = await emailAt(db, ws, params);
      return { id: await addComment(db, ws, place, { ...body, userId: me.user.id, at: await businessNow(db) }) };
    },
  );

  route(
    router,
    ctx,
    'patch',
    '/comments/:id',
    { body: resolveRequest, role: 'reviewer' },
    async ({ ws, params, body }) => {
      const at = body.resolved ? await businessNow(db) : null;
      if (!(await resolveComment(db, ws, params.id as string, at))) throw notFound('comment');
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
      const { place, email } = await emailAt(db, ws, params);
      const sign = contentSign(email.email, sharedOf(await loadAround(db, ws, ['shared'])));
      await setApproval(db, ws, place, { status: body.status, sign, userId: me.user.id, at: await businessNow(db) });
      return {};
    },
  );

  /** States that a draft was in: those with a name, and of the others the last one before every pause of ten minutes. */
  route(router, ctx, 'get', '/sequences/:id/history', {}, async ({ ws, params }) => {
    await getSequence(db, ws, params.id as string);
    const found = await statesOf(db, ws, params.id as string, LOOKED_AT);
    const kept = found.filter((h, i) => i === 0 || h.name !== null || (found[i - 1]?.at ?? 0) - h.at >= APART);
    return { history: kept.slice(0, SHOWN) };
  });

  route(router, ctx, 'get', '/sequences/:id/history/:number', {}, async ({ ws, params }) => {
    const { draft, revision } = await getSequence(db, ws, params.id as string);
    const wanted = Number(params.number);
    if (!Number.isInteger(wanted) || wanted < 0 || wanted > revision)
      throw invalid('number', 'There is no such state of this draft.');
    const back = await wayBack(db, ws, params.id as string, wanted);
    return { sequence: back.reduce((doc, { inverses }) => applyCommands(doc, inverses).doc, draft) };
  });

  route(router, ctx, 'post', '/sequences/:id/marks', { body: markRequest }, async ({ ws, me, params, body }) => {
    const { revision } = await getSequence(db, ws, params.id as string);
    const mark = { revision, name: body.name, userId: me.user.id, at: await businessNow(db) };
    await setMark(db, ws, params.id as string, mark);
    return { revision };
  });
  return router;
}
