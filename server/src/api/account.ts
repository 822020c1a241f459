import { Router } from 'express';
import { passwordRequest } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { changePassword, endOtherSessions, endSession, sessionsOf } from '../app/sessions.ts';

/** What a user has of their own: password, and where they are signed in. */
export function accountRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const own = { role: 'reviewer' } as const;

  // Trying passwords is as dear here as at the door.
  const tried = { ...own, body: passwordRequest, perMinute: 5 };
  route(router, ctx, 'put', '/account/password', tried, async ({ me, req, body }) => {
    await changePassword(db, req, me.user.id, body);
    return {};
  });

  route(router, ctx, 'get', '/account/sessions', own, async ({ me, req }) => ({
    sessions: await sessionsOf(db, req, me.user.id),
  }));

  route(router, ctx, 'delete', '/account/sessions/:id', own, async ({ me, params }) => {
    if (!(await endSession(db, me.user.id, params.id as string))) throw notFound('session');
    return {};
  });

  route(router, ctx, 'delete', '/account/sessions', own, async ({ me, req }) => {
    await endOtherSessions(db, req, me.user.id);
    return {};
  });
  return router;
}
