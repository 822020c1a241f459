import { sql, type SQL } from 'drizzle-orm';
import type { SuppressedAnswer, SuppressedRow } from '@ascenso/contracts';
import type { Ended } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

export interface SuppressedFilter {
  /** Part of the address. */
  q?: string;
  why?: Ended;
}

const why = (of: SQL) =>
  sql`case when ${of}.bounced_at is not null then 'bounced' when ${of}.complained_at is not null then 'complained' else 'unsubscribed' end`;
const at = (of: SQL) => sql`coalesce(${of}.bounced_at, ${of}.complained_at, ${of}.unsubscribed_at)`;

/** All that get no mail: people, addresses that nobody has, and those of people who were erased. */
const all = (ws: string, { q, why: only }: SuppressedFilter) => sql`
  select * from (
    select p.id::text as id, p.email, p.id as person, p.mail_status as why, ${at(sql`p`)} as "at"
    from people p where p.workspace_id = ${ws} and p.mail_status <> 'ok'
    union all
    select s.hash, s.email, null, ${why(sql`s`)}, ${at(sql`s`)} from suppressed s where s.workspace_id = ${ws} and s.held_by is null) x
  where ${q ? sql`strpos(x.email, ${q.toLowerCase()}) > 0` : sql`true`} and ${only ? sql`x.why = ${only}` : sql`true`}`;

/** Rows behind one that is named by its address and id; the erased come last. */
async function page(db: Executor, ws: string, filter: SuppressedFilter, after: string | null, limit: number) {
  const [email, id] = after === null ? [null, null] : (JSON.parse(after) as [string, string]);
  const behind = id === null ? sql`` : sql`where (coalesce(a.email, '~'), a.id) > (${email}, ${id})`;
  const found = await rows<SuppressedRow>(
    db,
    sql`select a.* from (${all(ws, filter)}) a ${behind} order by coalesce(a.email, '~'), a.id limit ${limit}`,
  );
  const last = found.at(-1);
  const next = found.length === limit && last ? JSON.stringify([last.email ?? '~', last.id]) : null;
  return { found, next };
}

/** One page of those who get no mail, with the count of each kind under the search. */
export async function suppressedPage(
  db: Executor,
  ws: string,
  filter: SuppressedFilter,
  after: string | null,
  limit: number,
): Promise<SuppressedAnswer> {
  const { found, next } = await page(db, ws, filter, after, limit);
  const counted = await rows<{ why: Ended; n: number }>(
    db,
    sql`select why, count(*) as n from (${all(ws, { q: filter.q })}) a group by why`,
  );
  const of = (w: Ended) => counted.find((c) => c.why === w)?.n ?? 0;
  return {
    rows: found,
    counts: { unsubscribed: of('unsubscribed'), bounced: of('bounced'), complained: of('complained') },
    next,
  };
}

/** All of them whose address is kept, in pages as they are read. */
export async function* suppressedAddresses(
  db: Executor,
  ws: string,
  filter: SuppressedFilter,
): AsyncGenerator<SuppressedRow[]> {
  for (let after: string | null = null; ;) {
    const { found, next }: Awaited<ReturnType<typeof page>> = await page(db, ws, filter, after, 1000);
    yield found.filter((r) => r.email !== null);
    if (next === null) return;
    after = next;
  }
}
