import { Router } from 'express';
import { dayNumber, zoneOf } from '@ascenso/core';
import { figureInAddress, moneyRules } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route } from '../app/routes.ts';
import { armResults } from '../db/arms.ts';
import { effectOf, figurePeople, hoursOf, linkNumbers } from '../db/figures.ts';
import { resultsOf } from '../db/results.ts';
import { moneyOf, setMoney } from '../db/money.ts';
import { breakdownOf, sequenceNumbers } from '../db/numbers.ts';
import { getSequence, hasSequence } from '../db/sequences.ts';
import { numbersCsv } from '../jobs/numbers-csv.ts';
import { daysAsked } from './periods.ts';

/** What came back: numbers of a sequence, and how money is counted. */
export function resultsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/results', {}, async ({ ws, me, query }) => {
    const zone = zoneOf(me.workspace.zone);
    const today = dayNumber(zone, await businessNow(db));
    return resultsOf(db, ws, { zone, today, days: daysAsked(query) });
  });

  route(router, ctx, 'get', '/money', {}, ({ ws }) => moneyOf(db, ws));

  route(router, ctx, 'put', '/money', { body: moneyRules }, async ({ ws, body }) => {
    await setMoney(db, ws, body);
    return {};
  });

  route(router, ctx, 'get', '/sequences/:id/numbers', {}, async ({ ws, params, query }) => {
    const days = daysAsked(query);
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    return sequenceNumbers(db, ws, params.id as string, days);
  });

  route(router, ctx, 'get', '/sequences/:id/numbers.csv', {}, async ({ ws, params, query, res }) => {
    const days = daysAsked(query);
    const { draft } = await getSequence(db, ws, params.id as string);
    const numbers = await sequenceNumbers(db, ws, params.id as string, days);
    res.type('text/csv').attachment(`${draft.name}.csv`);
    res.end(numbersCsv(draft, numbers));
  });

  route(router, ctx, 'get', '/figures', {}, ({ ws, query }) =>
    figurePeople(db, ws, parseOrThrow(figureInAddress, query.figure ?? '')),
  );

  route(router, ctx, 'get', '/sequences/:id/hours', {}, async ({ ws, params, query }) => {
    const days = daysAsked(query);
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    return { hours: await hoursOf(db, ws, { sequence: params.id as string, days }) };
  });

  route(router, ctx, 'get', '/sequences/:id/breakdown', {}, async ({ ws, params }) => {
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    return breakdownOf(db, ws, params.id as string);
  });

  route(router, ctx, 'get', '/sequences/:id/tests', {}, async ({ ws, params }) => {
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    return armResults(db, ws, params.id as string);
  });

  route(router, ctx, 'get', '/sequences/:id/effect', {}, async ({ ws, params }) => {
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    return effectOf(db, ws, params.id as string, await businessNow(db));
  });

  route(router, ctx, 'get', '/sequences/:id/steps/:step/links', {}, async ({ ws, params, query }) => {
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    const asked = { sequence: params.id as string, step: params.step as string, days: daysAsked(query) };
    return { links: await linkNumbers(db, ws, asked) };
  });
  return router;
}
