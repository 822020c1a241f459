import { Router } from 'express';
import { seenRequest, type SeenAnswer } from '@ascenso/contracts';
import type { Condition } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { route } from '../app/routes.ts';
import { AboutVisit, countMatching, someMatching } from '../db/conditions.ts';
import type { Db } from '../db/connect.ts';
import { listPeople } from '../db/people.ts';

/** What is asked "since joining" is counted over the last so many days: nobody has joined yet. */
const RECENT_DAYS = 30;

function overRecent(c: Condition): Condition {
  if (c.kind === 'all' || c.kind === 'any') return { ...c, of: c.of.map(overRecent) };
  if (c.kind === 'not') return { ...c, of: overRecent(c.of) };
  return c.kind === 'event' && (c.since.kind === 'entry' || c.since.kind === 'step')
    ? { ...c, since: { kind: 'period', amount: RECENT_DAYS, unit: 'days' } }
    : c;
}

/** Counts who sees each version of a chain, one after the other. */
async function versionsSeen(
  on: Db,
  ws: string,
  asked: readonly (Condition | null)[],
  now: number,
): Promise<SeenAnswer['versions']> {
  const versions: SeenAnswer['versions'] = [];
  for (const [i, condition] of asked.entries()) {
    const before = asked.slice(0, i).filter((c) => c !== null);
    const own: Condition = {
      kind: 'all',
      of: [...(condition ? [condition] : []), ...before.map((of): Condition => ({ kind: 'not', of }))],
    };
    try {
      const both: Condition = { kind: 'all', of: [...(condition ? [condition] : []), { kind: 'any', of: before }] };
      versions.push({
        count: await countMatching(on, ws, own, now),
        taken: condition && before.length > 0 ? await countMatching(on, ws, both, now) : 0,
        example: (await someMatching(on, ws, own, now, 1))[0] ?? null,
      });
    } catch (error) {
      // Only a passage through the sequence can answer, and nobody has begun one.
      if (!(error instanceof AboutVisit)) throw error;
      versions.push({ count: null, taken: 0, example: null });
    }
  }
  return versions;
}

/** How many people see each version of a chain now, and who for example. */
export function seenRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  route(
    router,
    ctx,
    'post',
    '/conditions/seen',
    { body: seenRequest, role: 'reviewer' },
    async ({ ws, me, body, gone }): Promise<SeenAnswer> => {
      const now = await businessNow(db);
      const { total } = await listPeople(db, ws, { search: '', offset: 0, limit: 1 });
      const asked = body.chain.map((c) => c && overRecent(c));
      const versions = await ctx.connection.asking.ask(me.user.id, gone, (on) => versionsSeen(on, ws, asked, now));
      return { total, versions };
    },
  );
  return router;
}
