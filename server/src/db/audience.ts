import { sql, type SQL } from 'drizzle-orm';
import type { Condition, Sequence } from '@ascenso/core';
import type { Whom } from '@ascenso/contracts';
import { ONCE, type Executor } from './connect.ts';
import { onList } from './on-list.ts';
import { ask } from './conditions.ts';
import { rows } from './rows.ts';

// Whom a send to everybody is for: who fits its condition, and may be mailed under its list.

/** Everybody fits. */
const EVERYBODY: Condition = { kind: 'all', of: [] };

/** What a send asks of its readers: a condition, or null for everybody; and the list it mails under, or null for service mail. */
export interface Audience {
  filter: Condition | null;
  list: string | null;
}

/** Whether somebody of `people p` may be mailed; the same rule as core's `mailBar`. */
const mailable = (list: string | null): SQL =>
  list === null ? sql`p.mail_status <> 'bounced'` : sql`p.mail_status = 'ok' and ${onList('p', list)}`;

/**
 * A page of the people whom a send is for at `now`, in the order of their ids, after one of them: those in some zones, without
 * those whom a cause has brought in already, or any. `also` is one more condition on `p`, after an `and` of its own.
 */
export async function audiencePage(
  db: Executor,
  ws: string,
  { filter, list }: Audience,
  now: number,
  page: {
    zones: readonly string[] | null;
    sequence: string;
    cause: string | null;
    after: string | null;
    limit: number;
  },
  also: SQL = sql``,
): Promise<{ id: string; zone: string; pausing: boolean }[]> {
  const zone = sql`coalesce(p.zone, (select zone from workspaces where id = ${ws}))`;
  const there = page.zones ? sql`and ${zone} = any (${sql.param(page.zones)}::text[])` : sql``;
  const after = page.after ? sql`and p.id > ${page.after}` : sql``;
  return rows<{ id: string; zone: string; pausing: boolean }>(
    db,
    sql`select ${sql.raw(ONCE)} p.id, ${zone} as zone, coalesce(p.paused_until > ${now}, false) as pausing ${await ask(db, ws, filter ?? EVERYBODY, now)} and ${mailable(list)} ${there} ${after} ${also}
        and not exists (select 1 from visits v where v.workspace_id = p.workspace_id and v.sequence_id = ${page.sequence} and v.person_id = p.id ${page.cause === null ? sql`` : sql`and v.cause_id = ${page.cause}`})
        order by p.id limit ${page.limit}`,
  );
}

/**
 * How many get a send now, by zone, and why the others who fit do not. `sequence` is the send itself: where nobody may enter
 * twice, whoever has been in does not get it.
 */
export async function countWhom(
  db: Executor,
  ws: string,
  sequence: string,
  { filter, list, entry }: Audience & Pick<Sequence, 'entry'>,
  now: number,
): Promise<Pick<Whom, 'gets' | 'pausing' | 'left'> & { zones: { zone: string; people: number }[] }> {
  const fitting = await ask(db, ws, filter ?? EVERYBODY, now);
  const had =
    entry.again === 'once'
      ? sql`exists (select 1 from visits v where v.workspace_id = p.workspace_id and v.sequence_id::text = ${sequence} and v.person_id = p.id)`
      : sql`false`;
  const why =
    list === null
      ? sql`case when p.mail_status = 'bounced' then 'bounced' when ${had} then 'had' else 'gets' end`
      : sql`case when p.mail_status <> 'ok' then p.mail_status when not ${onList('p', list)} then 'off-list' when ${had} then 'had' when p.paused_until > ${now} then 'pausing' else 'gets' end`;
  const counted = await rows<{ why: string; zone: string; n: number }>(
    db,
    sql`select ${sql.raw(ONCE)} ${why} as why, coalesce(p.zone, (select zone from workspaces where id = ${ws})) as zone, count(*) as n ${fitting} group by 1, 2`,
  );
  const sum = (what: string) => counted.reduce((n, c) => n + (c.why === what ? c.n : 0), 0);
  const zones = new Map<string, number>();
  for (const c of counted)
    if (c.why === 'gets' || c.why === 'pausing') zones.set(c.zone, (zones.get(c.zone) ?? 0) + c.n);
  return {
    gets: sum('gets') + sum('pausing'),
    pausing: sum('pausing'),
    left: {
      unsubscribed: sum('unsubscribed'),
      bounced: sum('bounced'),
      complained: sum('complained'),
      offList: sum('off-list'),
      had: sum('had'),
    },
    zones: [...zones].map(([zone, people]) => ({ zone, people })),
  };
}
