import { Router } from 'express';
import { capRequest, graceRequest, segmentRequest, type SegmentCount } from '@ascenso/contracts';
import { atomsOf, DAY, fromWall, kindOfAtom, zoneOf, type Condition } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { countMatching, countsFast } from '../db/conditions.ts';
import { setDailyCap, setGrace } from '../db/library.ts';
import { intoBin } from '../db/bin.ts';
import { addSegment, changeSegment, listSegments, usesOfSegment } from '../db/segments.ts';
import { webhookSecret } from '../mail/webhook.ts';

/** A segment is about people as they are: not about one passage through a sequence, and not about other segments. */
function checkRule(rule: Condition): void {
  for (const atom of atomsOf(rule)) {
    if (atom.kind === 'segment')
      throw invalid('rule', 'A segment cannot be made of other segments: write their rules out here.');
    if (kindOfAtom(atom).ofVisit(atom))
      throw invalid('rule', 'A segment is about people, wherever they are: this can only be asked inside a sequence.');
  }
}

/** Named rules about people, the daily cap, the minutes of grace, and the secret of webhooks. */
export function segmentsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'get', '/segments', {}, async ({ ws, me }) => {
    const now = await businessNow(db);
    const segments: SegmentCount[] = [];
    const fast = await countsFast(db);
    for (const { countAt: _, ...s } of await listSegments(db, ws)) {
      const kept = fast ? undefined : s.sizes.at(-1);
      segments.push({
        ...s,
        count: kept?.people ?? (await countMatching(db, ws, s.rule, now)),
        countedAt: kept ? fromWall(zoneOf(me.workspace.zone), kept.day * DAY) : null,
        usedIn: await usesOfSegment(db, ws, s.id),
      });
    }
    return { segments };
  });

  route(router, ctx, 'post', '/segments', { body: segmentRequest }, async ({ ws, body }) => {
    checkRule(body.rule);
    return { id: await addSegment(db, ws, body, await businessNow(db)) };
  });

  route(router, ctx, 'put', '/segments/:id', { body: segmentRequest }, async ({ ws, params, body }) => {
    checkRule(body.rule);
    if (!(await changeSegment(db, ws, params.id as string, body))) throw notFound('segment');
    return {};
  });

  route(router, ctx, 'delete', '/segments/:id', {}, async ({ ws, params }) => {
    const uses = await usesOfSegment(db, ws, params.id as string);
    if (uses.length > 0)
      throw new UserError(
        409,
        'in-use',
        `This segment is used in ${uses.map((name) => `“${name}”`).join(', ')}: take it out there first.`,
      );
    const undo = await intoBin(db, ws, 'segment', params.id as string);
    if (undo === undefined) throw notFound('segment');
    return { undo };
  });

  route(router, ctx, 'put', '/cap', { body: capRequest, role: 'owner' }, async ({ ws, body }) => {
    await setDailyCap(db, ws, body.dailyCap);
    return {};
  });

  route(router, ctx, 'put', '/grace', { body: graceRequest, role: 'owner' }, async ({ ws, body }) => {
    await setGrace(db, ws, body.minutes);
    return {};
  });

  route(router, ctx, 'get', '/webhooks/secret', { role: 'owner' }, ({ ws }) =>
    Promise.resolve({ secret: webhookSecret(ctx.sending.secret, ws) }),
  );
  return router;
}
