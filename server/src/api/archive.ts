import { Router } from 'express';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { route } from '../app/routes.ts';
import { writeArchive } from '../jobs/archive.ts';

/** Everything of a workspace as one file: its owner's alone, since everything leaves the house with it. */
export function archiveRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/archive.zip', { role: 'owner', perMinute: 3 }, async ({ ws, me, res, gone }) => {
    const day = new Date(await businessNow(db)).toISOString().slice(0, 10);
    res.type('application/zip').attachment(`${me.workspace.name} ${day}.zip`);
    await writeArchive(db, ws, me.user.id, res, gone);
  });
  return router;
}
