import type { Request, Response, Router } from 'express';
import { z } from 'zod';
import { MAX_BATCH } from '@ascenso/contracts';
import { businessClock } from '../app/clock.ts';
import { UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import type { Db } from '../db/connect.ts';
import { transact } from '../db/transact.ts';
import { takeEvents, type Taken } from '../people/events.ts';
import { door } from './doors.ts';
import { enclosed } from './envelope.ts';
import { problemOf } from './problem.ts';

const batchSchema = z
  .array(z.unknown())
  .min(1, 'The batch is empty.')
  .max(MAX_BATCH, `A batch holds ${MAX_BATCH} events at most: send it in parts.`);

/**
 * Answers for every event whether it was taken: 202 where all were, 207 where some were refused, and the first refusal
 * itself where none was.
 */
function answerTaken(res: Response, taken: readonly Taken[], batch: boolean): void {
  const refused = taken.flatMap((t, i) => (t.status === 'refused' ? [{ ...t, i }] : []));
  const first = refused[0];
  if (first && (!batch || refused.length === taken.length)) {
    const field = batch && first.error.field ? `${first.i}.${first.error.field}` : first.error.field;
    throw new UserError(first.error.status, first.error.code, first.error.message, field);
  }
  const count = (status: Taken['status']) => taken.filter((t) => t.status === status).length;
  res.status(first ? 207 : 202).json({
    stored: count('stored'),
    repeated: count('repeated'),
    refused: refused.length,
    events: taken.map((t) => (t.status === 'refused' ? { id: t.id, status: t.status, error: problemOf(t.error) } : t)),
  });
}

/** Events by CloudEvents 1.0, one or many. */
export function eventDoors(router: Router, db: Db, wsOf: (req: Request) => string): void {
  door(router, '/events', {
    post: async (req, res) => {
      const { events, batch } = enclosed(req);
      if (batch) parseOrThrow(batchSchema, events);
      const clock = await businessClock(db);
      const taken = await transact(db, (tx) => takeEvents(tx, wsOf(req), events, clock));
      answerTaken(res, taken, batch);
    },
  });
}
