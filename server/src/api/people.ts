import { Router } from 'express';
import type { CountAnswer, Me } from '@ascenso/contracts';
import { conditionRequest, eraseRequest, membershipRequest, personChange, personRequest } from '@ascenso/contracts';
import { fillProgram } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { AboutVisit, countMatching, matchingPeople } from '../db/conditions.ts';
import { hasList } from '../db/lists.ts';
import { hasPerson, listPeople, personStory, readerOf, type PeopleFilter } from '../db/people.ts';
import { ruleOf } from '../db/segments.ts';
import { filledSend } from '../db/sends.ts';
import { transact } from '../db/transact.ts';
import { writePeople } from '../jobs/people-csv.ts';
import { personFile } from '../jobs/person-file.ts';
import { signSend } from '../mail/token.ts';
import { addressesFor } from '../engine/message.ts';
import { changeAttributes, checkAttributes } from '../people/attributes.ts';
import { setMembership } from '../people/memberships.ts';
import { erase } from '../people/erasing.ts';
import { addPerson, changeAddress, changePoints, changeZone, personCalled } from '../people/people.ts';
import { changeTags } from '../people/tags.ts';

/** Somebody of the team puts people on lists and takes them off. */
const byHand = (me: Me) => ({ kind: 'team', source: { how: 'hand', label: me.user.name, words: '' } }) as const;

export function peopleRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  const mustExist = async (ws: string, id: string) => {
    if (!(await hasPerson(db, ws, id))) throw notFound('person');
  };
  const mustBeList = async (ws: string, id: string) => {
    if (!(await hasList(db, ws, id))) throw invalid('list', 'There is no such list.');
  };

  /** Ids of the people of a segment, or undefined where none is asked for. */
  const inSegment = async (ws: string, segment: string | undefined) => {
    if (!segment) return undefined;
    const rule = await ruleOf(db, ws, segment);
    if (!rule) throw notFound('segment');
    return matchingPeople(db, ws, rule, await businessNow(db));
  };

  const filterOf = async (ws: string, query: Record<string, string>): Promise<PeopleFilter> => ({
    search: query.q ?? '',
    did: query.did,
    within: query.within,
    ids: await inSegment(ws, query.segment),
  });

  route(router, ctx, 'get', '/people', {}, async ({ ws, query }) =>
    listPeople(db, ws, {
      ...(await filterOf(ws, query)),
      on: query.on,
      offset: Math.max(0, Number(query.offset) || 0),
      limit: Math.min(200, Math.max(1, Number(query.limit) || 50)),
    }),
  );

  // Everything that is known of people leaves the house with it: not for those who only look.
  const exported = { role: 'editor', perMinute: 10 } as const;
  route(router, ctx, 'get', '/people.csv', exported, async ({ ws, query, res, gone }) => {
    const filter = await filterOf(ws, query);
    res.type('text/csv').attachment('people.csv');
    await writePeople(db, ws, filter, res, gone);
  });

  route(router, ctx, 'post', '/people', { body: personRequest }, async ({ ws, me, body }) => {
    await checkAttributes(db, ws, body.attributes);
    for (const list of body.lists) await mustBeList(ws, list);
    const now = await businessNow(db);
    const id = await transact(db, async (tx) => {
      const made = await addPerson(tx, ws, body, now);
      if (!made) throw new UserError(409, 'exists', 'There is already a person with this address.', 'email');
      for (const list of body.lists) await setMembership(tx, ws, made, list, 'confirmed', now, byHand(me));
      return made;
    });
    return { id };
  });

  route(
    router,
    ctx,
    'post',
    '/conditions/count',
    { body: conditionRequest, role: 'reviewer' },
    async ({ ws, me, body, gone }): Promise<CountAnswer> => {
      const { total } = await listPeople(db, ws, { search: '', offset: 0, limit: 1 });
      const now = await businessNow(db);
      try {
        const matches = await ctx.connection.asking.ask(me.user.id, gone, (on) =>
          countMatching(on, ws, body.condition, now),
        );
        return { matches, total };
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
      if (body.points !== undefined) await changePoints(tx, ws, id, body.points, now);
      if (body.attributes) await changeAttributes(tx, ws, id, body.attributes, now);
      const tags = { add: body.addTag ? [body.addTag] : [], remove: body.removeTag ? [body.removeTag] : [] };
      await changeTags(tx, ws, id, tags, now);
    });
    return {};
  });

  route(router, ctx, 'post', '/people/:id/lists', { body: membershipRequest }, async ({ ws, me, params, body }) => {
    await mustExist(ws, params.id as string);
    await mustBeList(ws, body.list);
    const now = await businessNow(db);
    await transact(db, (tx) => setMembership(tx, ws, params.id as string, body.list, body.state, now, byHand(me)));
    return {};
  });

  route(router, ctx, 'get', '/people/:id/file', { role: 'editor' }, async ({ ws, me, params, res }) => {
    const file = await personFile(db, ws, params.id as string, me.workspace.zone, await businessNow(db));
    res.attachment('person.json').json(file);
  });

  route(router, ctx, 'post', '/people/:id/erase', { body: eraseRequest }, async ({ ws, params, body }) => {
    const id = params.id as string;
    const now = await businessNow(db);
    await transact(db, async (tx) => {
      await mustExist(ws, id);
      if ((await personCalled(tx, ws, body.email)) !== id)
        throw invalid('email', 'That is not their address: type it as it stands on this page.');
      await erase(tx, ws, id, now);
    });
    return {};
  });

  route(router, ctx, 'get', '/people/:id/reader', {}, ({ ws, params }) => readerOf(db, ws, params.id as string));

  route(router, ctx, 'get', '/sends/:id', {}, async ({ ws, params }) => {
    const sent = await filledSend(db, { workspaceId: ws, sendId: params.id as string });
    if (!sent) throw notFound('email');
    // As it was sent, but with nothing that would count as an opening or a click.
    const filled = fillProgram(sent.program, sent.values, {
      ...addressesFor('', 'shown'),
      base: '',
      open: 'data:,',
      unsubscribe: '#',
      link: (_n, target) => target,
      timer: (n) => `/t/${signSend(ctx.sending.secret, { workspaceId: ws, sendId: params.id as string })}/${n}.gif`,
    });
    return { ...filled, to: sent.to, at: sent.sentAt };
  });
  return router;
}
