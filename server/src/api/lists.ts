import { Router } from 'express';
import { listChange, listRequest, tagChange } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { intoBin } from '../db/bin.ts';
import { addList, changeList, listsInFull, usesOfList } from '../db/lists.ts';
import { listTags, replaceTag, usesOfTag } from '../db/tags.ts';
import { transact } from '../db/transact.ts';
import type { NamedUse } from '../db/uses.ts';

/** What is in use is not taken away: where it is used is said. */
function mustBeFree(uses: readonly NamedUse[]): void {
  if (uses.length === 0) return;
  const places = [...new Set(uses.map((u) => `“${u.name}” (${u.where})`))];
  throw new UserError(409, 'in-use', `It is used in ${places.slice(0, 5).join(', ')}: take it out there first.`);
}

/** Lists and tags: all of them, with who has them and where they are used. */
export function listsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/lists', {}, async ({ ws }) => ({ lists: await listsInFull(db, ws) }));

  route(router, ctx, 'post', '/lists', { body: listRequest }, async ({ ws, body }) => ({
    id: await addList(db, ws, body.name),
  }));

  route(router, ctx, 'patch', '/lists/:id', { body: listChange }, async ({ ws, params, body }) => {
    if (!(await changeList(db, ws, params.id as string, body))) throw notFound('list');
    return {};
  });

  route(router, ctx, 'delete', '/lists/:id', {}, async ({ ws, params }) => {
    const id = params.id as string;
    mustBeFree(await usesOfList(db, ws, id));
    const undo = await intoBin(db, ws, 'list', id);
    if (undo === undefined) throw notFound('list');
    return { undo };
  });

  route(router, ctx, 'get', '/tags', {}, async ({ ws }) => ({ tags: await listTags(db, ws) }));

  // Another name that is a tag already: the two become one.
  route(router, ctx, 'patch', '/tags/:tag', { body: tagChange }, async ({ ws, params, body }) => {
    const tag = params.tag as string;
    if (body.tag === tag) return {};
    mustBeFree(await usesOfTag(db, ws, tag));
    const undo = await transact(db, (tx) => replaceTag(tx, ws, tag, body.tag));
    if (undo === undefined) throw invalid('tag', 'Nobody has this tag any more.');
    return { undo };
  });

  route(router, ctx, 'delete', '/tags/:tag', {}, async ({ ws, params }) => {
    const tag = params.tag as string;
    mustBeFree(await usesOfTag(db, ws, tag));
    const undo = await transact(db, (tx) => replaceTag(tx, ws, tag, null));
    if (undo === undefined) throw notFound('tag');
    return { undo };
  });
  return router;
}
