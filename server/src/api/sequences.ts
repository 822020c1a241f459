import { Router } from 'express';
import { sql } from 'drizzle-orm';
import { newSequenceRequest, publishRequest, saveRequest, testSendRequest } from '@ascenso/contracts';
import {
  blankSequence,
  compileEmail,
  copySequence,
  fromPattern,
  patterns,
  DAY,
  findStep,
  fromWall,
  plainStyle,
  startingEvents,
  toWall,
  valuesFor,
  zoneOf,
} from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { firstRow } from '../db/rows.ts';
import { getSequence, goingOutToday, listSequences, sequenceNumbers } from '../db/sequences.ts';
import { loadSurroundings } from '../db/surroundings.ts';
import { loadFacts } from '../engine/facts.ts';
import { mergeContext, messageOf } from '../engine/send-loop.ts';
import { encodeProgram } from '@ascenso/core';
import { saveDraft } from './drafts.ts';
import { pendingChanges, checkDraft, keepProgram, publish, senderOf } from './publishing.ts';

export function sequencesRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  /** What a new sequence begins with: a pattern, a copy of another, or nothing. */
  async function beginning(ws: string, from: { pattern?: string | undefined; copyOf?: string | undefined }) {
    if (from.copyOf) return copySequence((await getSequence(db, ws, from.copyOf)).draft, newId);
    const around = await loadSurroundings(db, ws);
    const list = around.lists[0]?.id ?? null;
    if (!from.pattern) return blankSequence('', list);
    const pattern = patterns.find((p) => p.id === from.pattern);
    if (!pattern) throw invalid('pattern', 'There is no such pattern.');
    return fromPattern(pattern, {
      newId,
      list,
      events: around.kinds.map((k) => k.name),
      dates: around.attributes.filter((a) => a.type === 'date').map((a) => a.key),
    });
  }

  route(router, ctx, 'get', '/sequences', {}, async ({ ws, me }) => {
    const zone = zoneOf(me.workspace.zone);
    const today = Math.floor(toWall(zone, await businessNow(db)) / DAY) * DAY;
    return {
      sequences: await listSequences(db, ws),
      today: await goingOutToday(db, ws, fromWall(zone, today), fromWall(zone, today + DAY)),
    };
  });

  route(router, ctx, 'post', '/sequences', { body: newSequenceRequest }, async ({ ws, body }) => {
    const id = newId();
    const draft = { ...(await beginning(ws, body)), name: body.name };
    await db.execute(
      sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${ws}, ${id}, ${body.name}, 'draft', ${await businessNow(db)}, 0, ${JSON.stringify(draft)}::jsonb)`,
    );
    return { id };
  });

  route(router, ctx, 'get', '/sequences/:id', {}, ({ ws, params }) => getSequence(db, ws, params.id as string));

  route(router, ctx, 'post', '/sequences/:id/commands', { body: saveRequest }, async ({ ws, me, params, body }) => {
    const now = await businessNow(db);
    return db.transaction((tx) => saveDraft(tx, ws, params.id as string, me.user.id, body, now));
  });

  route(router, ctx, 'get', '/sequences/:id/checks', {}, async ({ ws, params }) => {
    const { draft } = await getSequence(db, ws, params.id as string);
    return { findings: (await checkDraft(params.id as string, draft, await loadSurroundings(db, ws))).findings };
  });

  route(router, ctx, 'get', '/sequences/:id/changes', {}, ({ ws, params, me }) =>
    pendingChanges(db, ws, params.id as string, me.workspace.zone),
  );

  route(router, ctx, 'post', '/sequences/:id/publish', { body: publishRequest }, async ({ ws, me, params, body }) => {
    const now = await businessNow(db);
    return {
      version: await db.transaction((tx) =>
        publish(tx, ws, params.id as string, body.revision, me.user.id, now, body.inside),
      ),
    };
  });

  route(router, ctx, 'get', '/sequences/:id/numbers', {}, async ({ ws, params }) => {
    await getSequence(db, ws, params.id as string);
    return sequenceNumbers(db, ws, params.id as string);
  });

  route(
    router,
    ctx,
    'post',
    '/sequences/:id/steps/:step/test',
    { body: testSendRequest },
    async ({ ws, params, body }) => {
      const { draft } = await getSequence(db, ws, params.id as string);
      const step = findStep(draft, params.step as string)?.step;
      if (step?.kind !== 'email') throw notFound('email');
      const around = await loadSurroundings(db, ws);
      const sender = senderOf(step.email.sender, around);
      const program = await compileEmail(step.email, { ...plainStyle, ...around.style });
      const facts = (
        await loadFacts(db, [
          {
            workspace_id: ws,
            visit_id: 'test',
            person_id: body.person,
            events: [],
            emails: false,
            links: false,
            segments: [],
          },
        ])
      ).get('test');
      if (!facts) throw invalid('person', 'There is no such person.');
      const event = body.event
        ? await firstRow<{ payload: Record<string, unknown> }>(
            db,
            sql`select payload from events where workspace_id = ${ws} and person_id = ${body.person} and id = ${body.event}`,
          )
        : undefined;
      if (body.event && !event) throw invalid('event', 'That event is not theirs.');
      const kind = around.kinds.find((k) => startingEvents(draft.triggers).includes(k.name));
      const values = valuesFor(program, mergeContext(facts, event?.payload ?? kind?.sample ?? null, sender));
      const now = await businessNow(db);
      const id = newId();
      const hash = await keepProgram(db, ws, program, sender);
      await db.execute(
        sql`insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at, "to", "values", sent_at)
          values (${ws}, ${id}, null, ${params.id}, 0, ${step.id}, ${body.person}, ${hash}, 'sent', ${now}, ${now}, ${body.to}, ${JSON.stringify(values)}::jsonb, ${now})`,
      );
      const message = messageOf(
        { workspace_id: ws, id, due_at: now, list_id: null, list_name: null },
        { program, encoded: encodeProgram(program), sender },
        body.to,
        values,
        ctx.sending,
      );
      const delivery = await ctx.sending.transport.deliver(sender.email, body.to, message);
      if (delivery.kind !== 'accepted')
        throw new UserError(502, 'not-delivered', `The test was not taken: ${delivery.answer}`, 'to');
      return { sent: true };
    },
  );
  return router;
}
