import { Router } from 'express';
import multer from 'multer';
import {
  eventKindChange,
  eventKindRequest,
  keyRequest,
  partsInAddress,
  senderExchangeRequest,
  senderRequest,
  styleRequest,
  surroundingParts,
} from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { editorsOnly, route } from '../app/routes.ts';
import { keepFile } from '../db/files.ts';
import { deleteKey, listKeys, makeKey } from '../db/keys.ts';
import { fieldsOf, usesOfFields } from '../db/event-fields.ts';
import { addSender, changeKind, changeSender, changeStyle, declareKind } from '../db/library.ts';
import { loadAround } from '../db/surroundings.ts';
import { transact } from '../db/transact.ts';
import { exchangeSender, sendersOfEmails } from '../sequences/exchanging.ts';

// One file of 10 MB, and nothing beside it.
const upload = multer({
  storage: multer.memoryStorage(),
  limits: { fileSize: 10_000_000, files: 1, fields: 0, parts: 1, headerPairs: 20 },
});

/** What drafts refer to: kinds of events, senders, style, files; and the keys of the intake. */
export function libraryRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/surroundings', {}, ({ ws, query, kept }) =>
    loadAround(db, ws, query.parts === undefined ? surroundingParts : parseOrThrow(partsInAddress, query.parts), kept),
  );

  route(router, ctx, 'put', '/event-kinds', { body: eventKindRequest }, async ({ ws, body }) => {
    if (!(await declareKind(db, ws, body)))
      throw new UserError(409, 'exists', `There is already a kind “${body.name}”: change it in its place.`, 'name');
    return {};
  });

  route(router, ctx, 'get', '/event-kinds/:name/uses', {}, async ({ ws, params }) => ({
    uses: await usesOfFields(db, ws, params.name as string),
  }));

  route(router, ctx, 'put', '/event-kinds/:name', { body: eventKindChange }, async ({ ws, params, body }) => {
    const name = params.name as string;
    const known = await fieldsOf(db, ws, name);
    // What asks for a number finds none in a text: another type is another field.
    const lost = (await usesOfFields(db, ws, name)).filter((u) => {
      const [before, after] = [known, body.fields].map((fields) => fields.find((f) => f.name === u.field));
      return !after || (before !== undefined && before.type !== after.type);
    });
    if (lost.length > 0)
      throw new UserError(
        409,
        'in-use',
        `${[...new Set(lost.map((u) => `“${u.field}” is used in “${u.sequence.name}”: ${u.where}`))].slice(0, 5).join('; ')}. Take it out there first.`,
        'fields',
      );
    if (!(await changeKind(db, ws, name, body))) throw notFound('kind of event');
    return {};
  });

  route(router, ctx, 'get', '/senders/emails', {}, async ({ ws }) => ({ emails: await sendersOfEmails(db, ws) }));

  route(router, ctx, 'put', '/senders/emails', { body: senderExchangeRequest }, async ({ ws, me, body }) => {
    const now = await businessNow(db);
    await transact(db, (tx) => exchangeSender(tx, ws, me.user.id, body, now));
    return {};
  });

  route(router, ctx, 'post', '/senders', { body: senderRequest }, async ({ ws, me, body }) => ({
    id: await addSender(db, ws, me.user.id, body),
  }));

  route(router, ctx, 'put', '/senders/:id', { body: senderRequest }, async ({ ws, me, params, body }) => {
    if (!(await changeSender(db, ws, me.user.id, params.id as string, body))) throw notFound('sender');
    return {};
  });

  route(router, ctx, 'put', '/style', { body: styleRequest }, async ({ ws, body }) => {
    await changeStyle(db, ws, body);
    return {};
  });

  router.post('/files', editorsOnly(ctx), upload.single('file'));
  route(router, ctx, 'post', '/files', {}, async ({ ws, req }) => {
    if (!req.file) throw invalid('file', 'No file came along. Choose one.');
    const name = Buffer.from(req.file.originalname, 'latin1').toString('utf8');
    return keepFile(db, ws, name, req.file.buffer, await businessNow(db));
  });

  route(router, ctx, 'get', '/keys', {}, async ({ ws }) => ({ keys: await listKeys(db, ws) }));
  route(router, ctx, 'post', '/keys', { body: keyRequest, role: 'owner' }, async ({ ws, body }) =>
    makeKey(db, ws, body.name, await businessNow(db), body.origins),
  );
  route(router, ctx, 'delete', '/keys/:id', { role: 'owner' }, async ({ ws, params }) => {
    if (!(await deleteKey(db, ws, params.id as string))) throw notFound('key');
    return {};
  });
  return router;
}
