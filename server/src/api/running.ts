import { Router } from 'express';
import { addPeopleRequest, resumeRequest, statusRequest } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { intoBin } from '../db/bin.ts';
import { matchingPeople } from '../db/conditions.ts';
import type { Tx } from '../db/connect.ts';
import { ruleOf } from '../db/segments.ts';
import { hasSequence, usesOfSequence } from '../db/sequences.ts';
import { transact } from '../db/transact.ts';
import { enterMany, mustBeOpen } from '../people/entering-many.ts';
import {
  archive,
  lockSequence,
  pause,
  resume,
  resumeCounts,
  takeOut,
  type LockedSequence,
} from '../sequences/pausing.ts';

async function mustLock(tx: Tx, ws: string, id: string): Promise<LockedSequence> {
  const s = await lockSequence(tx, ws, id);
  if (!s) throw notFound('sequence');
  return s;
}

/** A sequence while it runs: pause, resume, put away or delete, and people added by hand. */
export function runningRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'post', '/sequences/:id/status', { body: statusRequest }, async ({ ws, params, body }) => {
    const now = await businessNow(db);
    const id = params.id as string;
    return transact(db, async (tx) => {
      const s = await mustLock(tx, ws, id);
      if (body.status === 'archived') return { left: await archive(tx, ws, id, now) };
      if (s.status !== 'live' && s.status !== 'paused')
        throw new UserError(409, 'not-live', 'Only a sequence that is live can be paused.');
      await pause(tx, ws, id, now);
      return {};
    });
  });

  // What never went out leaves nothing behind; what did is archived, and its numbers stay.
  route(router, ctx, 'delete', '/sequences/:id', {}, async ({ ws, params }) => {
    const id = params.id as string;
    return transact(db, async (tx) => {
      const s = await mustLock(tx, ws, id);
      if (s.liveVersion !== null)
        throw new UserError(409, 'published', 'It has been published: archive it, so that its numbers stay.');
      const uses = await usesOfSequence(tx, ws, id);
      if (uses.length > 0)
        throw new UserError(
          409,
          'in-use',
          `It is used in ${uses.map((name) => `“${name}”`).join(', ')}: take it out there first.`,
        );
      return { undo: await intoBin(tx, ws, 'sequence', id) };
    });
  });

  route(router, ctx, 'get', '/sequences/:id/resume', {}, async ({ ws, params, query }) => {
    const { lateHours } = resumeRequest.shape.lateHours.safeParse(Number(query.late)).success
      ? { lateHours: Number(query.late) }
      : { lateHours: 24 };
    if (!(await hasSequence(db, ws, params.id as string))) throw notFound('sequence');
    return resumeCounts(db, ws, params.id as string, await businessNow(db), lateHours);
  });

  route(router, ctx, 'post', '/sequences/:id/resume', { body: resumeRequest }, async ({ ws, params, body }) => {
    const now = await businessNow(db);
    const id = params.id as string;
    return transact(db, async (tx) => {
      const s = await mustLock(tx, ws, id);
      if (s.status === 'archived') {
        // Out of the archive it comes paused, or as the draft that it was: nothing starts by itself.
        await takeOut(tx, ws, id, s, now);
        return {};
      }
      if (s.status !== 'paused')
        throw new UserError(409, 'not-paused', 'Only a sequence that is paused can be resumed.');
      await resume(tx, ws, id, body, s.pausedAt ?? now, now);
      return {};
    });
  });

  route(router, ctx, 'post', '/sequences/:id/people', { body: addPeopleRequest }, async ({ ws, params, body }) => {
    const now = await businessNow(db);
    await mustBeOpen(db, ws, params.id as string);
    const people = 'person' in body ? [body.person] : await segmentPeople(ws, body.segment, body.count, now);
    return { ...(await enterMany(db, ws, params.id as string, people, now)), asked: people.length };
  });

  async function segmentPeople(ws: string, segment: string, count: number, now: number): Promise<string[]> {
    const rule = await ruleOf(db, ws, segment);
    if (!rule) throw invalid('segment', 'There is no such segment.');
    const people = await matchingPeople(db, ws, rule, now);
    if (people.length > count)
      throw new UserError(
        409,
        'grown',
        `The segment has ${people.length} people by now, more than the ${count} that you saw. Look at the number again.`,
        'count',
      );
    return people;
  }
  return router;
}
