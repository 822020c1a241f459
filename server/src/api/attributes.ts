import { Router } from 'express';
import { attributeChange, attributeOrder, attributeRequest, pointRules } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { addAttribute, listAttributes, changeAttribute, orderAttributes, usesOfAttribute } from '../db/attributes.ts';
import { intoBin } from '../db/bin.ts';
import { pointsOf, setPoints } from '../db/points.ts';

/** What is known of people: attributes of the workspace's own, and what they earn by what they do. */
export function attributesRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/attributes', {}, async ({ ws }) => ({ attributes: await listAttributes(db, ws) }));

  route(router, ctx, 'post', '/attributes', { body: attributeRequest }, async ({ ws, body }) => {
    if (body.options.length > 0 && body.type !== 'text')
      throw invalid('options', 'Only a text can be one of some values.');
    if (!(await addAttribute(db, ws, body)))
      throw new UserError(409, 'exists', `There is already an attribute “${body.key}”.`, 'key');
    return {};
  });

  route(router, ctx, 'put', '/attributes', { body: attributeOrder }, async ({ ws, body }) => {
    await orderAttributes(db, ws, body.keys);
    return {};
  });

  route(router, ctx, 'patch', '/attributes/:key', { body: attributeChange }, async ({ ws, params, body }) => {
    if (!(await changeAttribute(db, ws, params.key as string, body))) throw notFound('attribute');
    return {};
  });

  route(router, ctx, 'delete', '/attributes/:key', {}, async ({ ws, params }) => {
    const uses = await usesOfAttribute(db, ws, params.key as string);
    if (uses.length > 0)
      throw new UserError(
        409,
        'in-use',
        `It is used in ${uses
          .slice(0, 5)
          .map((u) => `“${u.name}” (${u.where})`)
          .join(', ')}: take it out there first.`,
      );
    const undo = await intoBin(db, ws, 'attribute', params.key as string);
    if (undo === undefined) throw notFound('attribute');
    return { undo };
  });
  route(router, ctx, 'get', '/points', {}, ({ ws }) => pointsOf(db, ws));

  route(router, ctx, 'put', '/points', { body: pointRules }, async ({ ws, body }) => {
    await setPoints(db, ws, body);
    return {};
  });
  return router;
}
