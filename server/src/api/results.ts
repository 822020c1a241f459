import { Router } from 'express';
import { DAY, dayNumber, fillProgram, fromWall, zoneOf } from '@ascenso/core';
import { figureInAddress, moneyRules, type ClickedEmail, type TestsAnswer } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route, type Call } from '../app/routes.ts';
import { armResults } from '../db/arms.ts';
import type { Executor } from '../db/connect.ts';
import { filledSend } from '../db/sends.ts';
import { addressesFor } from '../engine/message.ts';
import { effectOf, figurePeople, hoursOf, linkNumbers, readOnOf, sampleOfStep } from '../db/figures.ts';
import { domainsOf, resultsOf } from '../db/results.ts';
import { offerResults } from '../db/offers.ts';
import { moneyOf, setMoney } from '../db/money.ts';
import { breakdownOf, sequenceNumbers } from '../db/numbers.ts';
import { getSequence, hasSequence } from '../db/sequences.ts';
import type { Days } from '../db/tallies.ts';
import { numbersCsv } from '../jobs/numbers-csv.ts';
import { decisionOf, splitTestsOf } from '../sequences/split-tests.ts';
import { daysAsked } from './periods.ts';

/** What came back: numbers of a sequence, and how money is counted. */
export function resultsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  /** What a count of some days depends on, in one word. */
  const upon = (days: Days | null, ...more: (string | number)[]) => [days?.from, days?.to, ...more].join(' ');

  route(router, ctx, 'get', '/results', {}, async ({ ws, me, query, reads, kept }) => {
    const { zone: name, currency } = me.workspace;
    const zone = zoneOf(name);
    const today = dayNumber(zone, await businessNow(db));
    const days = daysAsked(query);
    return kept(`results ${upon(days, today, name, currency)}`, async () =>
      resultsOf((await reads()).db, ws, { zone, currency, today, days }),
    );
  });

  route(router, ctx, 'get', '/results/domains', {}, async ({ ws, me, query, reads, kept }) => {
    const days = daysAsked(query);
    const { zone } = me.workspace;
    const domains = await kept(`domains ${upon(days, zone)}`, async () =>
      domainsOf((await reads()).db, ws, zoneOf(zone), days),
    );
    return { domains };
  });

  route(router, ctx, 'get', '/results/offers', {}, async ({ ws, me, query, reads, kept }) => {
    const days = daysAsked(query);
    const zone = zoneOf(me.workspace.zone);
    const midnight = (day: number) => fromWall(zone, day * DAY);
    const between = days && { from: midnight(days.from), to: midnight(days.to + 1) };
    const now = await businessNow(db);
    const what = `results of offers ${upon(days, zone.name, dayNumber(zone, now))}`;
    return { offers: await kept(what, async () => offerResults((await reads()).db, ws, between, now)) };
  });

  route(router, ctx, 'get', '/money', {}, ({ ws, kept }) => moneyOf(db, ws, kept));

  route(router, ctx, 'put', '/money', { body: moneyRules }, async ({ ws, body }) => {
    await setMoney(db, ws, body);
    return {};
  });

  /** What is told of one sequence, which has to be this workspace's. */
  const ofSequence = (path: string, answer: (call: Call<undefined>, id: string, db: Executor) => unknown) =>
    route(router, ctx, 'get', `/sequences/:id/${path}`, {}, async (call) => {
      const id = call.params.id as string;
      if (!(await hasSequence(db, call.ws, id))) throw notFound('sequence');
      return answer(call, id, (await call.reads()).db);
    });

  ofSequence('numbers', ({ ws, query }, id, db) => sequenceNumbers(db, ws, id, daysAsked(query)));
  ofSequence('breakdown', ({ ws }, id, db) => breakdownOf(db, ws, id));
  ofSequence('tests', async ({ ws, me, kept }, id, db): Promise<TestsAnswer> => {
    const counted = await kept(`arms ${id} ${me.workspace.currency}`, () =>
      armResults(db, ws, id, me.workspace.currency),
    );
    const { currency, tests } = counted;
    const ruled = await splitTestsOf(db, [id]);
    return { currency, tests: tests.map((t) => ({ ...t, decided: decisionOf(ruled.find((r) => r.step === t.step)) })) };
  });
  ofSequence('hours', async ({ ws, query }, id, db) => ({
    hours: await hoursOf(db, ws, { sequence: id, days: daysAsked(query) }),
  }));
  ofSequence('read-on', ({ ws, query }, id, db) => readOnOf(db, ws, { sequence: id, days: daysAsked(query) }));
  ofSequence('effect', async ({ ws, me }, id, db) =>
    effectOf(db, ws, id, me.workspace.currency, await businessNow(ctx.connection.db)),
  );
  ofSequence('steps/:step/links', async ({ ws, params, query }, id, db) => ({
    links: await linkNumbers(db, ws, { sequence: id, step: params.step as string, days: daysAsked(query) }),
  }));

  ofSequence('steps/:step/clicked', async ({ ws, params }, id, db): Promise<{ email: ClickedEmail }> => {
    const send = await sampleOfStep(db, ws, id, params.step as string);
    const sent = send === null ? undefined : await filledSend(db, { workspaceId: ws, sendId: send });
    if (!sent) return { email: null };
    const { html } = fillProgram(sent.program, sent.values, {
      ...addressesFor('', () => 'shown'),
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

  route(router, ctx, 'get', '/figures', {}, async ({ ws, query, reads }) =>
    figurePeople((await reads()).db, ws, parseOrThrow(figureInAddress, query.figure ?? '')),
  );

  return router;
}
