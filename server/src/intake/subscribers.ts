import type { Request, Router } from 'express';
import { subscriberPath, subscriberRequest } from '@ascenso/contracts';
import { businessClock, businessNow } from '../app/clock.ts';
import { invalid, notFound } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import type { Db } from '../db/connect.ts';
import { zoneOfWorkspace } from '../db/library.ts';
import { listCalled } from '../db/lists.ts';
import { transact } from '../db/transact.ts';
import { personFile } from '../jobs/person-file.ts';
import { changeAttributes, checkAttributes } from '../people/attributes.ts';
import { erase } from '../people/erasing.ts';
import { momentTold } from '../people/told-moment.ts';
import { setMembership } from '../people/memberships.ts';
import { changeZone, mailStatusOf, personByEmail, personCalled } from '../people/people.ts';
import type { Callers } from './callers.ts';
import { jsonBody } from './body.ts';
import { door } from './doors.ts';

/** People: added and updated, shown as they are kept, and erased. */
export function subscriberDoors(router: Router, db: Db, callers: Callers): void {
  const wsOf = (req: Request) => callers.workspace(req);
  door(router, '/subscribers', {
    post: async (req, res) => {
      const body = parseOrThrow(subscriberRequest, jsonBody(req));
      const ws = wsOf(req);
      const clock = await businessClock(db);
      const { now } = clock;
      const confirmedAt = body.confirmed_at ? momentTold(body.confirmed_at, clock, 'confirmed_at') : null;
      const told = await transact(db, async (tx) => {
        await checkAttributes(tx, ws, body.attributes);
        const person = await personByEmail(tx, ws, body.email, now);
        if (body.zone) await changeZone(tx, ws, person, body.zone, now);
        await changeAttributes(tx, ws, person, body.attributes, now);
        for (const [i, name] of body.lists.entries()) {
          const list = await listCalled(tx, ws, name);
          if (!list) throw invalid(`lists.${i}`, `There is no list “${name}”.`);
          await setMembership(tx, ws, person, list, 'confirmed', now, {
            kind: 'owner',
            confirmedAt,
            source: { how: 'api', label: callers.keyName(req), words: '' },
          });
        }
        return { id: person, mail: await mailStatusOf(tx, ws, person) };
      });
      res.json(told);
    },
  });

  const called = async (req: Request): Promise<{ ws: string; person: string }> => {
    const ws = wsOf(req);
    const { email } = parseOrThrow(subscriberPath, req.params);
    const person = await personCalled(db, ws, email);
    if (!person) throw notFound('person');
    return { ws, person };
  };
  door(router, '/subscribers/:email', {
    get: async (req, res) => {
      const { ws, person } = await called(req);
      res.json(await personFile(db, ws, person, await zoneOfWorkspace(db, ws), await businessNow(db)));
    },
    delete: async (req, res) => {
      const { ws, person } = await called(req);
      const now = await businessNow(db);
      await transact(db, (tx) => erase(tx, ws, person, now));
      res.json({});
    },
  });
}
