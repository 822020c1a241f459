import { Router } from 'express';
import type { z } from 'zod';
import type { BulkAnswer, CountAnswer, Me } from '@ascenso/contracts';
import {
  bulkRequest,
  conditionRequest,
  eraseRequest,
  foreseeRequest,
  membershipRequest,
  personChange,
  personRequest,
  idsInAddress,
  figureInAddress,
  ruleInAddress,
  type Figure,
} from '@ascenso/contracts';
import { fillProgram, type Condition } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route } from '../app/routes.ts';
import { AboutVisit, countMatching, estimateMatching, matchingPeople } from '../db/conditions.ts';
import { peopleBehind } from '../db/figures.ts';
import { hasList } from '../db/lists.ts';
import {
  hasPerson,
  idsOf,
  listPeople,
  personStory,
  readerOf,
  type PeopleFilter,
  type PeopleOrder,
} from '../db/people.ts';
import { ruleOf } from '../db/segments.ts';
import { filledSend } from '../db/sends.ts';
import { transact } from '../db/transact.ts';
import { foresee } from '../jobs/foreseeing.ts';
import { writePeople } from '../jobs/people-csv.ts';
import { personFile } from '../jobs/person-file.ts';
import { signSend } from '../mail/token.ts';
import { addressesFor } from '../engine/message.ts';
import { changeAttributes, checkAttributes } from '../people/attributes.ts';
import { joinMany, setMany, tagMany, untagMany, type Done } from '../people/bulk.ts';
import { enterMany } from '../people/entering-many.ts';
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

  /** Whom a search, a segment, a condition and a figure leave: all of them have to hold. */
  const peopleOf = async (
    ws: string,
    {
      q = '',
      segment,
      rule,
      figure,
    }: { q?: string; segment?: string | null; rule?: Condition | null; figure?: Figure | null },
  ): Promise<PeopleFilter> => {
    const now = await businessNow(db);
    const own = segment ? await ruleOf(db, ws, segment) : undefined;
    if (segment && !own) throw notFound('segment');
    const rules = [own, rule].filter((r) => r !== undefined && r !== null);
    try {
      const ids = await Promise.all(rules.map((r) => matchingPeople(db, ws, r, now)));
      return { search: q, ids: figure ? [...ids, await peopleBehind(db, ws, figure)] : ids };
    } catch (error) {
      if (error instanceof AboutVisit)
        throw invalid('rule', 'That can only be asked of people inside a sequence: take it out of the condition.');
      throw error;
    }
  };

  const filterOf = async (ws: string, query: Record<string, string>): Promise<PeopleFilter> => {
    const rule = query.rule ? parseOrThrow(ruleInAddress, query.rule) : null;
    const figure = query.figure ? parseOrThrow(figureInAddress, query.figure) : null;
    const { search, ids } = await peopleOf(ws, { ...query, rule, figure });
    const named = query.ids ? [parseOrThrow(idsInAddress, query.ids.split(','))] : [];
    return { search, ids: [...(ids ?? []), ...named], did: query.did, within: query.within };
  };

  const orderOf = (sort: string | undefined): PeopleOrder | undefined => {
    const [, down, name = ''] = /^(-?)(.*)$/.exec(sort ?? '') ?? [];
    if (name === 'email' || name === 'points' || name === 'known') return { by: name, down: down === '-' };
    return name.startsWith('attribute.') ? { by: { attribute: name.slice(10) }, down: down === '-' } : undefined;
  };

  route(router, ctx, 'get', '/people', {}, async ({ ws, query, kept }) =>
    listPeople(
      db,
      ws,
      {
        ...(await filterOf(ws, query)),
        on: query.on,
        by: orderOf(query.sort),
        offset: Math.max(0, Number(query.offset) || 0),
        limit: Math.min(200, Math.max(1, Number(query.limit) || 50)),
      },
      kept,
    ),
  );

  // Everything that is known of people leaves the house with it: not for those who only look.
  const exported = { role: 'editor', perMinute: 10 } as const;
  route(router, ctx, 'get', '/people.csv', exported, async ({ ws, query, res, gone }) => {
    const filter = await filterOf(ws, query);
    res.type('text/csv').attachment('people.csv');
    await writePeople(db, ws, filter, res, gone);
  });

  const theseOf = async (ws: string, who: z.infer<typeof bulkRequest>['who']): Promise<string[]> =>
    idsOf(db, ws, 'ids' in who ? { search: '', ids: [who.ids] } : await peopleOf(ws, who));

  // Asking what would come of it changes nothing.
  route(router, ctx, 'post', '/sequences/:id/people/foreseen', { body: foreseeRequest }, async ({ ws, params, body }) =>
    foresee(db, ws, params.id as string, await theseOf(ws, body.who), await businessNow(db)),
  );

  // Set by set: a million people are tagged in one statement.
  route(router, ctx, 'post', '/people/bulk', { body: bulkRequest }, async ({ ws, me, body }): Promise<BulkAnswer> => {
    const { who, what } = body;
    const ids = await theseOf(ws, who);
    if ('count' in who && ids.length > who.count)
      throw new UserError(
        409,
        'grown',
        `${ids.length} people fit by now, more than the ${who.count} that you saw. Look at the number again.`,
        'count',
      );
    const now = await businessNow(db);
    const asked = ids.length;
    const told = (done: Done): BulkAnswer => ({
      asked,
      changed: done.changed,
      ...(done.undo ? { undo: done.undo } : {}),
    });
    switch (what.kind) {
      case 'tag':
        return told(await transact(db, (tx) => tagMany(tx, ws, ids, what.tag, now)));
      case 'untag':
        return told(await transact(db, (tx) => untagMany(tx, ws, ids, what.tag, now)));
      case 'attribute':
        await checkAttributes(db, ws, { [what.key]: what.value });
        return told(await transact(db, (tx) => setMany(tx, ws, ids, what, now)));
      case 'list':
        await mustBeList(ws, what.list);
        return told(await transact(db, (tx) => joinMany(tx, ws, ids, what.list, byHand(me).source, now)));
      case 'sequence':
        return enterMany(db, ws, what.sequence, ids, now).then(({ entered, undo }) => told({ changed: entered, undo }));
      case 'erase': {
        if (what.count !== asked) throw invalid('count', `These are ${asked} people: type that number.`);
        let changed = 0;
        for (const id of ids) if (await transact(db, (tx) => erase(tx, ws, id, now))) changed++;
        return { asked, changed };
      }
    }
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
    async ({ ws, me, body, reads, gone }): Promise<CountAnswer> => {
      const { total } = await listPeople(db, ws, { search: '', offset: 0, limit: 1 });
      const now = await businessNow(db);
      try {
        const { asking } = await reads();
        return await asking.ask(me.user.id, gone, async (on) => {
          const about = body.quick ? await estimateMatching(on, ws, body.condition, now) : null;
          return { matches: about ?? (await countMatching(on, ws, body.condition, now)), total, about: about !== null };
        });
      } catch (error) {
        if (error instanceof AboutVisit) return { matches: null, total, about: false };
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
      if (body.zone !== undefined) await changeZone(tx, ws, id, body.zone, now);
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
      ...addressesFor('', () => 'shown'),
      base: '',
      open: 'data:,',
      unsubscribe: '#',
      link: (_n, target) => target,
      timer: (n) =>
        `/t/${signSend(ctx.sending.secret, { workspaceId: ws, sendId: params.id as string }, 't')}/${n}.gif`,
    });
    return { ...filled, to: sent.to, at: sent.sentAt };
  });
  return router;
}
