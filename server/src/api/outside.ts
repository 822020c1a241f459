import { Router } from 'express';
import { aheadRequest, nothingRequest } from '@ascenso/contracts';
import { addDays, HOUR, zoneOf } from '@ascenso/core';
import { clockState, engineAway } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound, UserError } from '../app/errors.ts';
import { told } from '../app/log.ts';
import { route } from '../app/routes.ts';
import { leaving } from '../db/leaving.ts';
import { moveClock } from '../engine/mover.ts';
import { OwnMailbox } from './own-mailbox.ts';

/** The practice clock, and a window on the simulated mailbox. */
export function outsideRouter(ctx: AppContext): Router {
  const router = Router();
  const { connection } = ctx;

  route(router, ctx, 'get', '/outside/clock', {}, async ({ ws }) => ({
    ...(await clockState(connection.db)),
    leaving: await leaving(connection.db, ws),
    engineAway: await engineAway(connection.db),
    shop: ctx.shopUrl,
    mailTo: ctx.mailTo,
  }));

  route(router, ctx, 'post', '/outside/clock/ahead', { body: aheadRequest, role: 'owner' }, async ({ body, me }) => {
    const state = await clockState(connection.db);
    const zone = zoneOf(me.workspace.zone);
    const target = body.by === 'hour' ? state.now + HOUR : addDays(zone, state.now, body.by === 'day' ? 1 : 7);
    if (state.moving)
      throw new UserError(409, 'moving', 'The clock is already being moved. Wait until it has arrived.');
    // Waits only until the move has begun: the screen asks how far it is.
    await new Promise<void>((begun, refused) => {
      moveClock(connection, ctx.sending, target, ctx.crowd, () => begun()).catch((error: Error) => {
        ctx.log.error(told(error), 'moving the clock failed');
        refused(error);
      });
    });
    return { target };
  });

  const { mailboxUrl } = ctx;
  const mailbox = mailboxUrl ? new OwnMailbox(mailboxUrl, connection.db) : null;
  const mustHave = (): OwnMailbox => {
    if (!mailbox) throw new UserError(404, 'no-mailbox', 'There is no simulated mailbox here.');
    return mailbox;
  };
  route(router, ctx, 'get', '/outside/mailbox', {}, ({ ws, query }) => mustHave().newest(ws, query.q ?? '', 50));
  route(router, ctx, 'post', '/outside/mailbox/:number/complain', { body: nothingRequest }, async ({ ws, params }) => {
    if (!(await mustHave().complain(ws, Number(params.number)))) throw notFound('message');
    return {};
  });
  route(router, ctx, 'get', '/outside/mailbox/:number', {}, async ({ ws, params }) => {
    const message = await mustHave().one(ws, Number(params.number) || 0);
    if (!message) throw notFound('message');
    return message;
  });
  return router;
}
