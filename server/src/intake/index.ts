import { Router } from 'express';
import { intakeDocument } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { UserError } from '../app/errors.ts';
import { readBytes } from './body.ts';
import { Callers } from './callers.ts';
import { codeDoors } from './codes.ts';
import { door } from './doors.ts';
import { eventDoors } from './events.ts';
import { problems } from './problem.ts';
import { subscriberDoors } from './subscribers.ts';

/** The outside's door: events, subscribers and codes, with an API key. */
export function intakeRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const callers = new Callers(ctx);
  const wsOf = callers.workspace.bind(callers);
  router.use((_req, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  router.use(callers.preflight);
  door(router, '/openapi.json', {
    get: async (_req, res) => {
      res.json(intakeDocument(ctx.sending.base));
    },
  });
  router.use(callers.identify, callers.limit, readBytes);
  eventDoors(router, db, wsOf);
  subscriberDoors(router, db, callers);
  codeDoors(router, db, wsOf);
  router.use(() => {
    throw new UserError(404, 'not-found', 'There is nothing under that address. See /intake/openapi.json.');
  });
  router.use(problems(ctx));
  return router;
}
