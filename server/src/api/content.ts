import { Router } from 'express';
import {
  fileChange,
  mappingRequest,
  nothingRequest,
  sharedRequest,
  templateRequest,
  wordRequest,
} from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { usersOfFile } from '../db/file-users.ts';
import { changeFile, hasFile } from '../db/files.ts';
import { addShared, addWord, changeShared, keepMapping } from '../db/library.ts';
import { intoBin, outOfBin } from '../db/bin.ts';
import { transact } from '../db/transact.ts';
import { loadAround } from '../db/surroundings.ts';
import { takeOutAgain, type AddedByHand } from '../people/taking-out.ts';
import { addTemplate, changeTemplate, deleteTemplate, listTemplates, visibleTemplate } from '../db/templates.ts';
import { dropTemplateDraft, followTemplate, openTemplate } from '../sequences/template-drafts.ts';

const quoted = (names: readonly string[]) => names.map((n) => `“${n}”`).join(', ');

/** What emails are made of beside their words: shared blocks, templates, files, one's own words. */
export function contentRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'post', '/shared', { body: sharedRequest }, async ({ ws, body }) => ({
    id: await addShared(db, ws, body, await businessNow(db)),
  }));

  route(router, ctx, 'put', '/shared/:id', { body: sharedRequest }, async ({ ws, params, body }) => {
    if (!(await changeShared(db, ws, params.id as string, body, await businessNow(db)))) throw notFound('shared block');
    return {};
  });

  route(router, ctx, 'delete', '/shared/:id', {}, async ({ ws, params }) => {
    const { shared } = await loadAround(db, ws, ['shared']);
    const known = shared.find((s) => s.id === params.id);
    if (!known) throw notFound('shared block');
    if (known.usedIn.length > 0)
      throw new UserError(
        409,
        'in-use',
        `It stands in ${quoted(known.usedIn.map((u) => u.name))}: take it out there first.`,
      );
    return { undo: await intoBin(db, ws, 'shared', known.id) };
  });

  route(router, ctx, 'get', '/templates', {}, async ({ ws, me }) => ({
    templates: await listTemplates(db, ws, me.user.id),
  }));

  route(router, ctx, 'post', '/templates', { body: templateRequest }, async ({ ws, me, body }) => ({
    id: await addTemplate(db, ws, me.user.id, body, await businessNow(db)),
  }));

  route(router, ctx, 'put', '/templates/:id', { body: templateRequest }, async ({ ws, me, params, body }) => {
    const id = params.id as string;
    const now = await businessNow(db);
    await transact(db, async (tx) => {
      // Its draft before it, as whoever writes in the draft takes them.
      await followTemplate(tx, ws, me.user.id, { id, ...body }, now);
      if (!(await changeTemplate(tx, ws, me.user.id, id, body, now))) throw notFound('template');
    });
    return {};
  });

  route(router, ctx, 'post', '/templates/:id/draft', {}, async ({ ws, me, params }) => {
    const template = await visibleTemplate(db, ws, me.user.id, params.id as string);
    if (!template) throw notFound('template');
    const now = await businessNow(db);
    return transact(db, (tx) => openTemplate(tx, ws, template, now));
  });

  route(router, ctx, 'delete', '/templates/:id', {}, async ({ ws, me, params }) => {
    const id = params.id as string;
    return transact(db, async (tx) => {
      await dropTemplateDraft(tx, ws, id);
      const undo = await deleteTemplate(tx, ws, me.user.id, id);
      if (undo === undefined) throw notFound('template');
      return { undo };
    });
  });

  route(router, ctx, 'patch', '/files/:id', { body: fileChange }, async ({ ws, params, body }) => {
    if (!(await changeFile(db, ws, params.id as string, body))) throw notFound('file');
    return {};
  });

  route(router, ctx, 'delete', '/files/:id', {}, async ({ ws, params }) => {
    const id = params.id as string;
    if (!(await hasFile(db, ws, id))) throw notFound('file');
    const users = await usersOfFile(db, ws, id);
    // An email that has been sent goes on fetching its pictures for years.
    if (users.length > 0)
      throw new UserError(
        409,
        'in-use',
        `It is used in ${quoted(users)}, and emails that were sent still fetch it there.`,
      );
    return { undo: await intoBin(db, ws, 'file', id) };
  });

  route(router, ctx, 'post', '/bin/:id', { body: nothingRequest }, async ({ ws, params }) => {
    const now = await businessNow(db);
    let stay = 0;
    const back = await transact(db, (tx) =>
      outOfBin<AddedByHand>(tx, ws, params.id as string, async (added) => {
        stay = await takeOutAgain(tx, ws, added, now);
        if (stay === added.people.length)
          throw new UserError(409, 'gone', 'Their first email has gone out: that cannot be taken back any more.');
      }),
    );
    if (!back) throw new UserError(404, 'not-found', 'It cannot be brought back any more: a week has passed.');
    return { stay };
  });

  route(router, ctx, 'post', '/words', { body: wordRequest }, async ({ ws, body }) => {
    await addWord(db, ws, body.word);
    return {};
  });

  route(router, ctx, 'put', '/event-kinds/:name/mapping', { body: mappingRequest }, async ({ ws, params, body }) => {
    if (!(await keepMapping(db, ws, params.name as string, body))) throw notFound('event');
    return {};
  });
  return router;
}
