import { Router } from 'express';
import { republishRequest, type BehindAnswer, type Republished } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { sequencesBehind } from '../db/behind.ts';
import { loadSurroundings } from '../db/surroundings.ts';
import { transact } from '../db/transact.ts';
import { republish } from '../sequences/publishing.ts';

/** Live sequences that were published before something of the house changed, and publishing that change alone. */
export function behindRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/behind', {}, async ({ ws }): Promise<BehindAnswer> => ({
    sequences: await sequencesBehind(db, ws),
  }));

  // One after the other, each whole or not at all; a line of JSON as each is done, so that a long row shows how far it is.
  route(router, ctx, 'post', '/behind', { body: republishRequest }, async ({ ws, me, body, res, gone }) => {
    const around = await loadSurroundings(db, ws);
    const now = await businessNow(db);
    res.type('application/x-ndjson');
    for (const id of body.sequences) {
      if (gone.aborted) break;
      const told = await transact(db, (tx) => republish(tx, ws, id, me.user.id, now, around)).then(
        (version): Republished => ({ id, version }),
        (error: unknown): Republished => {
          if (error instanceof UserError) return { id, error: error.message };
          throw error;
        },
      );
      res.write(`${JSON.stringify(told)}\n`);
    }
    res.end();
  });
  return router;
}
