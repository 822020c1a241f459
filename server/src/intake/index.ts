import express, { Router, type Request, type Response } from 'express';
import { z } from 'zod';
import { intakeDocument, MAX_BATCH, subscriberRequest } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { workspaceOfKey } from '../db/keys.ts';
import { listCalled } from '../db/lists.ts';
import { transact } from '../db/transact.ts';
import { codeRoutes } from './codes.ts';
import { changeAttributes, checkAttributes } from '../people/attributes.ts';
import { takeEvents, type Taken } from '../people/events.ts';
import { setMembership } from '../people/memberships.ts';
import { changeZone, mailStatusOf, personByEmail } from '../people/people.ts';

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
    events: taken.map((t) =>
      t.status === 'refused'
        ? { id: t.id, status: t.status, error: { code: t.error.code, message: t.error.message, field: t.error.field } }
        : t,
    ),
  });
}

/** The outside's door: events and subscribers, with an API key. */
export function intakeRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  router.get('/openapi.json', (_req, res) => void res.json(intakeDocument(ctx.sending.base)));

  /** The workspace of the key in `Authorization: Bearer …`. */
  const workspaceOf = async (req: Request): Promise<string> => {
    const key = /^Bearer (\S+)$/.exec(req.headers.authorization ?? '')?.[1];
    const ws = key && (await workspaceOfKey(db, key));
    if (!ws)
      throw new UserError(
        401,
        'wrong-key',
        'The API key is missing or wrong: send it as "Authorization: Bearer <key>". Keys are made under People, Events and keys.',
      );
    return ws;
  };
  const workspaces = new WeakMap<Request, string>();
  const wsOf = (req: Request) => workspaces.get(req) ?? '';
  // The key is looked at before the body is read: a stranger cannot make us parse anything.
  router.use(async (req, _res, next) => {
    workspaces.set(req, await workspaceOf(req));
    next();
  });
  router.use(
    express.json({
      limit: '1mb',
      type: ['application/json', 'application/cloudevents+json', 'application/cloudevents-batch+json'],
    }),
  );

  router.post('/events', async (req, res) => {
    if (req.body === undefined)
      throw new UserError(
        415,
        'wrong-type',
        'Send JSON, with Content-Type application/cloudevents+json or application/cloudevents-batch+json.',
        'Content-Type',
      );
    const events: readonly unknown[] = Array.isArray(req.body) ? parseOrThrow(batchSchema, req.body) : [req.body];
    const now = await businessNow(db);
    const taken = await transact(db, (tx) => takeEvents(tx, wsOf(req), events, now));
    answerTaken(res, taken, Array.isArray(req.body));
  });

  router.post('/subscribers', async (req, res) => {
    const body = parseOrThrow(subscriberRequest, req.body);
    const ws = wsOf(req);
    const now = await businessNow(db);
    const told = await transact(db, async (tx) => {
      await checkAttributes(tx, ws, body.attributes);
      const person = await personByEmail(tx, ws, body.email, now);
      // A clock that runs ahead cannot have seen it later than we hear of it.
      const confirmedAt = body.confirmed_at ? Math.min(Date.parse(body.confirmed_at), now) : null;
      if (body.zone) await changeZone(tx, ws, person, body.zone);
      await changeAttributes(tx, ws, person, body.attributes, now);
      for (const [i, name] of body.lists.entries()) {
        const list = await listCalled(tx, ws, name);
        if (!list) throw invalid(`lists.${i}`, `There is no list “${name}”.`);
        await setMembership(tx, ws, person, list, 'confirmed', now, { kind: 'owner', confirmedAt });
      }
      return { id: person, mail: await mailStatusOf(tx, ws, person) };
    });
    res.json(told);
  });

  codeRoutes(router, db, wsOf);
  return router;
}
