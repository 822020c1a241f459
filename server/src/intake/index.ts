import express, { Router, type Request } from 'express';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { cloudEvent, intakeDocument, MAX_BATCH, subscriberRequest } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/routes.ts';
import { sha256 } from '../app/sessions.ts';
import { firstRow } from '../db/rows.ts';
import { transact } from '../db/transact.ts';
import { changeAttributes, setMembership } from './changes.ts';
import { codeRoutes } from './codes.ts';
import { checkAttributes, personByEmail, storeEvents } from './store.ts';

const batchSchema = z
  .array(cloudEvent)
  .min(1, 'The batch is empty.')
  .max(MAX_BATCH, `A batch holds ${MAX_BATCH} events at most: send it in parts.`);

/** The outside's door: events and subscribers, with an API key. */
export function intakeRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  router.get('/openapi.json', (_req, res) => void res.json(intakeDocument(ctx.sending.base)));

  /** The workspace of the key in `Authorization: Bearer …`. */
  const workspaceOf = async (req: Request): Promise<string> => {
    const key = /^Bearer (\S+)$/.exec(req.headers.authorization ?? '')?.[1];
    const row =
      key &&
      (await firstRow<{ workspace_id: string }>(
        db,
        sql`select workspace_id from api_keys where hash = ${sha256(key)}`,
      ));
    if (!row)
      throw new UserError(
        401,
        'wrong-key',
        'The API key is missing or wrong: send it as "Authorization: Bearer <key>". Keys are made under People, Events and keys.',
      );
    return row.workspace_id;
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
    const batch = Array.isArray(req.body);
    const events = batch ? parseOrThrow(batchSchema, req.body) : [parseOrThrow(cloudEvent, req.body)];
    const now = await businessNow(db);
    res.status(202).json(await transact(db, (tx) => storeEvents(tx, wsOf(req), events, now, batch)));
  });

  router.post('/subscribers', async (req, res) => {
    const body = parseOrThrow(subscriberRequest, req.body);
    const ws = wsOf(req);
    const now = await businessNow(db);
    const id = await transact(db, async (tx) => {
      await checkAttributes(tx, ws, body.attributes);
      const person = await personByEmail(tx, ws, body.email, now);
      if (body.zone)
        await tx.execute(sql`update people set zone = ${body.zone} where workspace_id = ${ws} and id = ${person}`);
      await changeAttributes(tx, ws, person, body.attributes, now);
      for (const [i, name] of body.lists.entries()) {
        const list = await firstRow<{ id: string }>(
          tx,
          sql`select id from lists where workspace_id = ${ws} and (name = ${name} or id::text = ${name})`,
        );
        if (!list) throw invalid(`lists.${i}`, `There is no list “${name}”.`);
        await setMembership(tx, ws, person, list.id, 'confirmed', now);
      }
      return person;
    });
    res.json({ id });
  });

  codeRoutes(router, db, wsOf);
  return router;
}
