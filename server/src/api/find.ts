import { Router } from 'express';
import type { AppContext } from '../app/context.ts';
import { invalid } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { find } from '../db/find.ts';

/** Finding anything by its words. */
export function findRouter(ctx: AppContext): Router {
  const router = Router();
  route(router, ctx, 'get', '/find', {}, ({ ws, me, query }) => {
    const q = query.q ?? '';
    if (q.length > 100) throw invalid('q', '100 characters at most.');
    return find(ctx.connection.db, ws, me.user.id, q);
  });
  return router;
}
