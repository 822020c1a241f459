import { Router } from 'express';
import type { HereAnswer, NewSequence, SequenceAnswer } from '@ascenso/contracts';
import {
  hereRequest,
  newSequenceRequest,
  publishRequest,
  saveRequest,
  startingKinds,
  testSendRequest,
} from '@ascenso/contracts';
import {
  adoptEvent,
  applyCommands,
  blankOneOff,
  blankSequence,
  copySequence,
  fromPattern,
  patterns,
  findStep,
  zoneOf,
  dayNumber,
} from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { earnedByEmail } from '../db/results.ts';
import { lossOfLog } from '../app/log-file.ts';
import { looksOf } from '../db/looks.ts';
import { notePresence } from '../db/presence.ts';
import { addDraft, draftRevision, getSequence, isUnpublished, listSequences } from '../db/sequences.ts';
import { goingOutToday } from '../jobs/forecast.ts';
import { loadSurroundings } from '../db/surroundings.ts';
import { transact } from '../db/transact.ts';
import { savedSince, saveDraft } from '../sequences/drafts.ts';
import { whomOf } from '../sequences/whom.ts';
import { pendingChanges, checkDraft, publish } from '../sequences/publishing.ts';
import { sendTest } from './test-send.ts';

/** Edits of a draft that can be taken back after it has been opened anew. */
const UNDOABLE = 100;

export function sequencesRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  /** What a new sequence begins with: a pattern, a copy of another, or nothing. */
  async function beginning(ws: string, from: NewSequence) {
    if (from.copyOf) return copySequence((await getSequence(db, ws, from.copyOf)).draft, newId);
    const around = await loadSurroundings(db, ws);
    // Among several nobody but the author knows which: it is chosen, and the checks ask for it.
    const list = around.lists.length === 1 ? (around.lists[0]?.id ?? '') : '';
    if (from.oneOff) return blankOneOff(from.name, list, newId);
    if (!from.pattern) return blankSequence('', list);
    const pattern = patterns.find((p) => p.id === from.pattern);
    if (!pattern) throw invalid('pattern', 'There is no such pattern.');
    const made = fromPattern(pattern, {
      newId,
      list,
      events: around.kinds.map((k) => k.name),
      dates: around.attributes.filter((a) => a.type === 'date').map((a) => a.key),
    });
    // What its trigger brings is known already: the repeats show it from the start.
    const kinds = startingKinds(made, around);
    return kinds.reduce((doc, kind) => applyCommands(doc, adoptEvent(doc, kind)).doc, made);
  }

  route(router, ctx, 'get', '/sequences', {}, async ({ ws, me, kept }) => {
    const zone = zoneOf(me.workspace.zone);
    const now = await businessNow(db);
    const lost = lossOfLog();
    return {
      sequences: await listSequences(db, ws),
      today: await kept(`today ${dayNumber(zone, now)} ${zone.name}`, () => goingOutToday(db, ws, zone, now)),
      earned: await earnedByEmail(db, ws, { from: dayNumber(zone, now) - 29, to: dayNumber(zone, now) }),
      looks: await looksOf(db, ws, now, lost && { forMs: Date.now() - lost.since, why: lost.why }),
    };
  });

  route(router, ctx, 'post', '/sequences', { body: newSequenceRequest }, async ({ ws, body }) => {
    const draft = { ...(await beginning(ws, body)), name: body.name };
    return { id: await addDraft(db, ws, draft, await businessNow(db)) };
  });

  route(router, ctx, 'get', '/sequences/:id', {}, async ({ ws, me, params }): Promise<SequenceAnswer> => {
    const found = await getSequence(db, ws, params.id as string);
    const log = await savedSince(db, ws, found.id, Math.max(0, found.revision - UNDOABLE), me.user.id);
    // Saved meanwhile: it comes with the next look.
    return { ...found, log: log.filter((saved) => saved.revision <= found.revision) };
  });

  // Who is here is known of everybody who looks, whatever they may change.
  route(router, ctx, 'post', '/sequences/:id/here', { body: hereRequest, role: 'reviewer' }, async (call) => {
    const { ws, me, params, body } = call;
    const id = params.id as string;
    const draft = await draftRevision(db, ws, id);
    if (!draft) throw notFound('sequence');
    const others = await notePresence(db, { ws, sequence: id, user: me.user.id, tab: body.tab, step: body.step });
    const edits = draft.revision > body.revision ? await savedSince(db, ws, id, body.revision, me.user.id) : [];
    return {
      others,
      edits,
      unpublished: edits.length > 0 ? await isUnpublished(db, ws, id) : null,
      liveVersion: draft.live,
    } satisfies HereAnswer;
  });

  route(router, ctx, 'post', '/sequences/:id/commands', { body: saveRequest }, async ({ ws, me, params, body }) => {
    const now = await businessNow(db);
    return transact(db, (tx) => saveDraft(tx, ws, params.id as string, me.user.id, body, now));
  });

  route(router, ctx, 'get', '/sequences/:id/checks', {}, async ({ ws, params }) => {
    const { draft } = await getSequence(db, ws, params.id as string);
    return { findings: (await checkDraft(params.id as string, draft, await loadSurroundings(db, ws))).findings };
  });

  route(router, ctx, 'get', '/sequences/:id/changes', {}, ({ ws, params, me }) =>
    pendingChanges(db, ws, params.id as string, me.workspace.zone),
  );

  route(router, ctx, 'get', '/sequences/:id/whom', {}, async ({ ws, params }) => {
    const { id, draft } = await getSequence(db, ws, params.id as string);
    return whomOf(db, ws, id, draft, await businessNow(db));
  });

  route(router, ctx, 'post', '/sequences/:id/publish', { body: publishRequest }, async ({ ws, me, params, body }) => {
    const now = await businessNow(db);
    return {
      version: await transact(db, (tx) =>
        publish(tx, ws, params.id as string, body.revision, me.user.id, now, body.inside, body.people),
      ),
    };
  });

  route(
    router,
    ctx,
    'post',
    '/sequences/:id/steps/:step/test',
    { body: testSendRequest },
    async ({ ws, params, body }) => {
      const sequence = await getSequence(db, ws, params.id as string);
      const step = findStep(sequence.draft, params.step as string)?.step;
      if (step?.kind !== 'email') throw notFound('email');
      await sendTest(ctx, ws, sequence, step, body);
      return { sent: true };
    },
  );
  return router;
}
