import { sql } from 'drizzle-orm';
import type { Foreseen } from '@ascenso/contracts';
import { DAY, localDay, zoneOf } from '@ascenso/core';
import type { Db, Tx } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { loadVersion } from '../db/versions.ts';
import { enterByHand, mustBeOpen } from '../people/entering-many.ts';
import { insideUntil } from './led-on.ts';
import { armCounts } from './likely.ts';

/** So many are led on; of more, the first of them speak for the others, and that is said. */
const LED_ON = 500;
/** How far it is looked for a first email. */
const AHEAD = 60 * DAY;
/** Who is told by name, to be read as. */
const NAMED = 3;

/** Ends the transaction without leaving anything of it. */
class Seen extends Error {
  readonly foreseen: Foreseen;
  constructor(foreseen: Foreseen) {
    super();
    this.foreseen = foreseen;
  }
}

/** How many emails each was handed on each day of their own calendar, of the last two days: `person/day`. */
async function handedTo(tx: Tx, ws: string, people: readonly string[], now: number): Promise<Map<string, number>> {
  const found = await rows<{ person: string; zone: string; at: number }>(
    tx,
    sql`select s.person_id as person, coalesce(p.zone, w.zone) as zone, s.due_at as at from sends s
        join people p on p.workspace_id = s.workspace_id and p.id = s.person_id join workspaces w on w.id = s.workspace_id
        where s.workspace_id = ${ws} and s.person_id = any (${sql.param(people)}::uuid[]) and s.visit_id is not null
          and s.status <> 'cancelled' and s.due_at > ${now - 2 * DAY}`,
  );
  const out = new Map<string, number>();
  for (const { person, zone, at } of found) {
    const key = `${person}/${localDay(zoneOf(zone), at)}`;
    out.set(key, (out.get(key) ?? 0) + 1);
  }
  return out;
}

async function look(tx: Tx, ws: string, sequence: string, people: readonly string[], now: number): Promise<Foreseen> {
  const asked = people.slice(0, LED_ON);
  const entered = await enterByHand(tx, ws, sequence, asked, now);
  const zones = new Map(
    (
      await rows<{ id: string; zone: string; email: string }>(
        tx,
        sql`select p.id, coalesce(p.zone, w.zone) as zone, p.email from people p join workspaces w on w.id = p.workspace_id
            where p.workspace_id = ${ws} and p.id = any (${sql.param([...entered])}::uuid[])`,
      )
    ).map((p) => [p.id, p]),
  );
  const handed = await handedTo(tx, ws, [...entered], now);
  const first = new Map<string, { step: string; at: number }>();
  const sends: { person: string; at: number; here: boolean }[] = [];
  for await (const met of insideUntil(tx, ws, [sequence], await armCounts(tx, ws), now, now + AHEAD, 1, [...entered])) {
    const { effect, person } = met;
    if (effect.kind !== 'send') continue;
    const here = met.sequence === sequence;
    sends.push({ person, at: effect.dueAt, here });
    const known = first.get(person);
    if (here && (!known || effect.dueAt < known.at)) first.set(person, { step: effect.step, at: effect.dueAt });
  }
  const dayOf = (person: string, at: number) => localDay(zoneOf(zones.get(person)?.zone ?? 'UTC'), at);
  const isSecond = (person: string, at: number) =>
    (handed.get(`${person}/${dayOf(person, at)}`) ?? 0) > 0 ||
    sends.some((s) => s.person === person && !s.here && s.at <= at && dayOf(person, s.at) === dayOf(person, at));
  const { run } = await loadVersion(tx, ws, sequence, await liveVersion(tx, ws, sequence));
  const emails = new Map<string, Foreseen['emails'][number]>();
  for (const [person, { step, at }] of first) {
    const found = run.steps.get(step)?.step;
    const known = emails.get(step) ?? {
      step,
      name: found?.kind === 'email' ? found.name : '',
      people: 0,
      from: at,
      until: at,
      second: 0,
    };
    emails.set(step, {
      ...known,
      people: known.people + 1,
      from: Math.min(known.from, at),
      until: Math.max(known.until, at),
      second: known.second + (isSecond(person, at) ? 1 : 0),
    });
  }
  return {
    asked: people.length,
    seen: asked.length,
    enter: entered.size,
    emails: [...emails.values()].sort((a, b) => b.people - a.people),
    some: [...first.keys()].slice(0, NAMED).map((id) => ({ id, email: zones.get(id)?.email ?? '' })),
  };
}

const liveVersion = async (tx: Tx, ws: string, sequence: string): Promise<number> =>
  (
    await rows<{ n: number }>(
      tx,
      sql`select live_version as n from sequences where workspace_id = ${ws} and id = ${sequence}`,
    )
  )[0]?.n ?? 0;

/**
 * What would come of adding people to a sequence by hand: they are let in and led on as the engine would, in a transaction that
 * leaves nothing. Throws where nobody can be added.
 */
export async function foresee(
  db: Db,
  ws: string,
  sequence: string,
  people: readonly string[],
  now: number,
): Promise<Foreseen> {
  await mustBeOpen(db, ws, sequence);
  try {
    await db.transaction(async (tx) => {
      throw new Seen(await look(tx, ws, sequence, people, now));
    });
  } catch (error) {
    if (error instanceof Seen) return error.foreseen;
    throw error;
  }
  throw new Error('Nothing was seen.');
}
