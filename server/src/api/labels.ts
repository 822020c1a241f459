import { Router } from 'express';
import { labelledRequest, labelRequest } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { intoBin } from '../db/bin.ts';
import { addLabel, listLabels, renameLabel, setLabel } from '../db/labels.ts';

/** Labels, and what has them. */
export function labelsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/labels', {}, async ({ ws }) => ({ labels: await listLabels(db, ws) }));

  route(router, ctx, 'post', '/labels', { body: labelRequest }, async ({ ws, body }) => ({
    id: await addLabel(db, ws, body.name),
  }));

  route(router, ctx, 'patch', '/labels/:id', { body: labelRequest }, async ({ ws, params, body }) => {
    if (!(await renameLabel(db, ws, params.id as string, body.name))) throw notFound('label');
    return {};
  });

  route(router, ctx, 'put', '/labels/:id/things', { body: labelledRequest }, async ({ ws, params, body }) => {
    if (!(await setLabel(db, ws, params.id as string, body))) throw notFound('label, or no such thing to put it on');
    return {};
  });

  // What had it has it again, should it be brought back.
  route(router, ctx, 'delete', '/labels/:id', {}, async ({ ws, params }) => {
    const undo = await intoBin(db, ws, 'label', params.id as string);
    if (undo === undefined) throw notFound('label');
    return { undo };
  });
  return router;
}
