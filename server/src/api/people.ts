import { Router } from 'express';
import { sql } from 'drizzle-orm';
import type { CountAnswer } from '@ascenso/contracts';
import { conditionRequest, membershipRequest, personChange, personRequest } from '@ascenso/contracts';
import { fillProgram, type Condition, type Program, type Values } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { AboutVisit, countMatching, matchingPeople } from '../db/conditions.ts';
import { listPeople, personStory, readerOf } from '../db/people.ts';
import { firstRow } from '../db/rows.ts';
import { transact } from '../db/transact.ts';
import { signSend } from '../mail/token.ts';
import { addressesFor } from '../engine/message.ts';
import { changeAttributes, checkAttributes } from '../people/attributes.ts';
import { setMembership } from '../people/memberships.ts';
import { changeAddress, changeZone } from '../people/people.ts';
import { changeTags } from '../people/tags.ts';

export function peopleRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  const mustExist = async (ws: string, id: string) => {
    if (!(await firstRow(db, sql`select 1 from people where workspace_id = ${ws} and id = ${id}`)))
      throw notFound('person');
  };
  const mustBeList = async (ws: string, id: string) => {
    if (!(await firstRow(db, sql`select 1 from lists where workspace_id = ${ws} and id = ${id}`)))
      throw invalid('list', 'There is no such list.');
  };

  /** Ids of the people of a segment, or undefined where none is asked for. */
  const inSegment = async (ws: string, segment: string | undefined) => {
    if (!segment) return undefined;
    const row = await firstRow<{ rule: Condition }>(
      db,
      sql`select rule from segments where workspace_id = ${ws} and id::text = ${segment}`,
    );
    if (!row) throw notFound('segment');
    return matchingPeople(db, ws, row.rule, await businessNow(db));
  };

  route(router, ctx, 'get', '/people', {}, async ({ ws, query }) =>
    listPeople(db, ws, {
      search: query.q ?? '',
      did: query.did,
      on: query.on,
      within: query.within,
      ids: await inSegment(ws, query.segment),
      offset: Math.max(0, Number(query.offset) || 0),
      limit: Math.min(200, Math.max(1, Number(query.limit) || 50)),
    }),
  );

  route(router, ctx, 'post', '/people', { body: personRequest }, async ({ ws, body }) => {
    await checkAttributes(db, ws, body.attributes);
    for (const list of body.lists) await mustBeList(ws, list);
    const now = await businessNow(db);
    const id = newId();
    await transact(db, async (tx) => {
      const made = await firstRow(
        tx,
        sql`insert into people (workspace_id, id, email, attributes, zone, created_at) values (${ws}, ${id}, ${body.email}, ${JSON.stringify(body.attributes)}::jsonb, ${body.zone}, ${now}) on conflict do nothing returning id`,
      );
      if (!made) throw new UserError(409, 'exists', 'There is already a person with this address.', 'email');
      for (const list of body.lists) await setMembership(tx, ws, id, list, 'confirmed', now, { kind: 'team' });
    });
    return { id };
  });

  route(
    router,
    ctx,
    'post',
    '/conditions/count',
    { body: conditionRequest, role: 'reviewer' },
    async ({ ws, body }): Promise<CountAnswer> => {
      const { total } = await listPeople(db, ws, { search: '', offset: 0, limit: 1 });
      try {
        return { matches: await countMatching(db, ws, body.condition, await businessNow(db)), total };
      } catch (error) {
        if (error instanceof AboutVisit) return { matches: null, total };
        throw error;
      }
    },
  );

  route(router, ctx, 'get', '/people/:id', {}, ({ ws, params, me }) =>
    personStory(db, ws, params.id as string, me.workspace.zone),
  );

  route(router, ctx, 'patch', '/people/:id', { body: personChange }, async ({ ws, params, body }) => {
    await mustExist(ws, params.id as string);
    if (body.attributes) await checkAttributes(db, ws, body.attributes);
    const now = await businessNow(db);
    const id = params.id as string;
    await transact(db, async (tx) => {
      if (body.email !== undefined) await changeAddress(tx, ws, id, body.email);
      if (body.zone !== undefined) await changeZone(tx, ws, id, body.zone);
      if (body.attributes) await changeAttributes(tx, ws, id, body.attributes, now);
      const tags = { add: body.addTag ? [body.addTag] : [], remove: body.removeTag ? [body.removeTag] : [] };
      await changeTags(tx, ws, id, tags, now);
    });
    return {};
  });

  route(router, ctx, 'post', '/people/:id/lists', { body: membershipRequest }, async ({ ws, params, body }) => {
    await mustExist(ws, params.id as string);
    await mustBeList(ws, body.list);
    const now = await businessNow(db);
    await transact(db, (tx) =>
      setMembership(tx, ws, params.id as string, body.list, body.state, now, { kind: 'team' }),
    );
    return {};
  });

  route(router, ctx, 'get', '/people/:id/reader', {}, ({ ws, params }) => readerOf(db, ws, params.id as string));

  route(router, ctx, 'get', '/sends/:id', {}, async ({ ws, params }) => {
    const row = await firstRow<{ values: Values | null; to: string; sent_at: number | null; program: Program }>(
      db,
      sql`select s."values", s."to", s.sent_at, p.program from sends s join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash where s.workspace_id = ${ws} and s.id = ${params.id}`,
    );
    if (!row?.values) throw notFound('email');
    // As it was sent, but with nothing that would count as an opening or a click.
    const filled = fillProgram(row.program, row.values, {
      ...addressesFor('', 'shown'),
      base: '',
      open: 'data:,',
      unsubscribe: '#',
      link: (_n, target) => target,
      timer: (n) => `/t/${signSend(ctx.sending.secret, { workspaceId: ws, sendId: params.id as string })}/${n}.gif`,
    });
    return { ...filled, to: row.to, at: row.sent_at };
  });
  return router;
}
