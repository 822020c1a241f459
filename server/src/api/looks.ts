import { Router } from 'express';
import { nothingRequest, senderAddressRequest } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { transact } from '../db/transact.ts';
import { tryServiceNow } from '../engine/mail-service.ts';
import { letSenderGo } from '../engine/senders.ts';
import { tryAsideNow } from '../engine/setting-aside.ts';

/** What one does about what the engine cannot do by itself. */
export function looksRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  route(router, ctx, 'post', '/aside/now', { body: nothingRequest }, async ({ ws }) => {
    const now = await businessNow(db);
    await transact(db, (tx) => tryAsideNow(tx, ws, now));
    return {};
  });
  route(router, ctx, 'post', '/mail-service/try', { body: nothingRequest }, async () => ({
    tried: await tryServiceNow(db),
  }));
  route(router, ctx, 'post', '/senders/go-on', { body: senderAddressRequest }, async ({ ws, body }) => {
    const now = await businessNow(db);
    const emails = await transact(db, (tx) => letSenderGo(tx, ws, body.email, now));
    if (emails === undefined) throw notFound('sender whose mail waits');
    return { emails };
  });
  return router;
}
