import { Router } from 'express';
import { dayNumber, fillProgram, zoneOf } from '@ascenso/core';
import { figureInAddress, moneyRules, type ClickedEmail, type TestsAnswer } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route, type Call } from '../app/routes.ts';
import { armResults } from '../db/arms.ts';
import { filledSend } from '../db/sends.ts';
import { addressesFor } from '../engine/message.ts';
import { effectOf, figurePeople, hoursOf, linkNumbers, readOnOf, sampleOfStep } from '../db/figures.ts';
import { domainsOf, resultsOf } from '../db/results.ts';
import { moneyOf, setMoney } from '../db/money.ts';
import { breakdownOf, sequenceNumbers } from '../db/numbers.ts';
import { getSequence, hasSequence } from '../db/sequences.ts';
import { numbersCsv } from '../jobs/numbers-csv.ts';
import { decisionOf, splitTestsOf } from '../sequences/split-tests.ts';
import { daysAsked } from './periods.ts';

/** What came back: numbers of a sequence, and how money is counted. */
export function resultsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/results', {}, async ({ ws, me, query }) => {
    const zone = zoneOf(me.workspace.zone);
    const today = dayNumber(zone, await businessNow(db));
    return resultsOf(db, ws, { zone, currency: me.workspace.currency, today, days: daysAsked(query) });
  });

  route(router, ctx, 'get', '/results/domains', {}, async ({ ws, me, query }) => ({
    domains: await domainsOf(db, ws, zoneOf(me.workspace.zone), daysAsked(query)),
  }));

  route(router, ctx, 'get', '/money', {}, ({ ws }) => moneyOf(db, ws));

  route(router, ctx, 'put', '/money', { body: moneyRules }, async ({ ws, body }) => {
    await setMoney(db, ws, body);
    return {};
  });

  /** What is told of one sequence, which has to be this workspace's. */
  const ofSequence = (path: string, answer: (call: Call<undefined>, id: string) => unknown) =>
    route(router, ctx, 'get', `/sequences/:id/${path}`, {}, async (call) => {
      const id = call.params.id as string;
      if (!(await hasSequence(db, call.ws, id))) throw notFound('sequence');
      return answer(call, id);
    });

  ofSequence('numbers', ({ ws, query }, id) => sequenceNumbers(db, ws, id, daysAsked(query)));
  ofSequence('breakdown', ({ ws }, id) => breakdownOf(db, ws, id));
  ofSequence('tests', async ({ ws, me }, id): Promise<TestsAnswer> => {
    const { currency, tests } = await armResults(db, ws, id, me.workspace.currency);
    const ruled = await splitTestsOf(db, [id]);
    return { currency, tests: tests.map((t) => ({ ...t, decided: decisionOf(ruled.find((r) => r.step === t.step)) })) };
  });
  ofSequence('hours', async ({ ws, query }, id) => ({
    hours: await hoursOf(db, ws, { sequence: id, days: daysAsked(query) }),
  }));
  ofSequence('read-on', ({ ws, query }, id) => readOnOf(db, ws, { sequence: id, days: daysAsked(query) }));
  ofSequence('effect', async ({ ws, me }, id) => effectOf(db, ws, id, me.workspace.currency, await businessNow(db)));
  ofSequence('steps/:step/links', async ({ ws, params, query }, id) => ({
    links: await linkNumbers(db, ws, { sequence: id, step: params.step as string, days: daysAsked(query) }),
  }));

  ofSequence('steps/:step/clicked', async ({ ws, params }, id): Promise<{ email: ClickedEmail }> => {
    const send = await sampleOfStep(db, ws, id, params.step as string);
    const sent = send === null ? undefined : await filledSend(db, { workspaceId: ws, sendId: send });
    if (!sent) return { email: null };
    const { html } = fillProgram(sent.program, sent.values, {
      ...addressesFor('', 'shown'),
      open: 'data:,',
      unsubscribe: '#',
      link: (ref) => `#link-${ref}`,
    });
    return { email: { html, to: sent.to ?? '' } };
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

  return router;
}
