import { Router } from 'express';
import { DAY, dayNumber, fillProgram, fromWall, zoneOf } from '@ascenso/core';
import { figureInAddress, moneyRules, type ClickedEmail, type TestsAnswer } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound } from '../app/errors.ts';
import { KeptAnswers } from '../app/kept-answers.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route, tellAge, type Call } from '../app/routes.ts';
import { armResults } from '../db/arms.ts';
import type { Executor } from '../db/connect.ts';
import { filledSend } from '../db/sends.ts';
import { addressesFor } from '../engine/message.ts';
import { effectOf, figurePeople, hoursOf, linkNumbers, readOnOf, sampleOfStep } from '../db/figures.ts';
import { domainsOf, resultsOf } from '../db/results.ts';
import { offerResults } from '../db/offers.ts';
import { moneyOf, setMoney } from '../db/money.ts';
import { ARMS_TAKEN, breakdownOf, sequenceNumbers } from '../db/numbers.ts';
import { getSequence, hasSequence } from '../db/sequences.ts';
import { readTallies } from '../db/tallies.ts';
import { numbersCsv } from '../jobs/numbers-csv.ts';
import { decisionOf, splitTestsOf } from '../sequences/split-tests.ts';
import { daysAsked } from './periods.ts';

/** So many passages through the arms of a sequence are counted anew at every look. */
const MANY = 5_000;

/** What came back: numbers of a sequence, and how money is counted. */
export function resultsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const arms = new KeptAnswers<Awaited<ReturnType<typeof armResults>>>();

  route(router, ctx, 'get', '/results', {}, async ({ ws, me, query, reads }) => {
    const zone = zoneOf(me.workspace.zone);
    const today = dayNumber(zone, await businessNow(db));
    return resultsOf((await reads()).db, ws, { zone, currency: me.workspace.currency, today, days: daysAsked(query) });
  });

  route(router, ctx, 'get', '/results/domains', {}, async ({ ws, me, query, reads }) => ({
    domains: await domainsOf((await reads()).db, ws, zoneOf(me.workspace.zone), daysAsked(query)),
  }));

  route(router, ctx, 'get', '/results/offers', {}, async ({ ws, me, query, reads }) => {
    const days = daysAsked(query);
    const zone = zoneOf(me.workspace.zone);
    const midnight = (day: number) => fromWall(zone, day * DAY);
    const between = days && { from: midnight(days.from), to: midnight(days.to + 1) };
    return { offers: await offerResults((await reads()).db, ws, between, await businessNow(db)) };
  });

  route(router, ctx, 'get', '/money', {}, ({ ws }) => moneyOf(db, ws));

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
  ofSequence('tests', async ({ ws, me, res }, id, db): Promise<TestsAnswer> => {
    const ask = () => armResults(db, ws, id, me.workspace.currency);
    const taken = await readTallies(db, ws, { sequence: id, whats: ARMS_TAKEN });
    const people = taken.reduce((n, t) => n + t.n, 0);
    const { answer, age } =
      people > MANY ? await arms.get(`${ws}/${id}/${me.workspace.currency}`, ask) : { answer: await ask(), age: 0 };
    tellAge(res, age);
    const { currency, tests } = answer;
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

  route(router, ctx, 'get', '/figures', {}, async ({ ws, query, reads }) =>
    figurePeople((await reads()).db, ws, parseOrThrow(figureInAddress, query.figure ?? '')),
  );

  return router;
}
