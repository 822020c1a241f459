import { sql } from 'drizzle-orm';
import type { Suppression } from '@ascenso/contracts';
import type { Db, Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { transact } from '../db/transact.ts';
import type { ConsentSource } from './consent.ts';
import { hashOf } from './erasing.ts';
import { bounced, complained, unsubscribe } from './permission.ts';

/** Ends mail to one person, as if it had ended by itself. */
export async function end(
  tx: Tx,
  ws: string,
  person: string,
  why: Suppression['why'],
  source: ConsentSource,
  now: number,
): Promise<void> {
  switch (why) {
    case 'unsubscribed':
      return unsubscribe(tx, ws, person, now, source);
    case 'bounced':
      return bounced(tx, ws, person, now);
    case 'complained':
      return complained(tx, ws, person, now, source);
  }
}

/**
 * Ends mail to addresses: people with them get none from now on, and an address that nobody has gets none when somebody
 * comes with it, by whichever door. What has ended already stays as it was. Answers how many are people.
 */
export async function suppress(
  db: Db,
  ws: string,
  addresses: readonly Suppression[],
  source: ConsentSource,
  now: number,
): Promise<number> {
  const when = (why: Suppression['why']) => sql`case when a.why = ${why} then ${now}::bigint end`;
  await db.execute(sql`
    insert into suppressed (workspace_id, hash, email, unsubscribed_at, bounced_at, complained_at)
    select ${ws}, ${hashOf(ws, sql`a.email`)}, a.email, ${when('unsubscribed')}, ${when('bounced')}, ${when('complained')}
    from (select distinct on (email) * from jsonb_to_recordset(${batch(addresses)}) as r(email text, why text)) a
    where not exists (select 1 from people p where p.workspace_id = ${ws} and p.email = a.email)
    on conflict (workspace_id, hash) do update set
      unsubscribed_at = coalesce(suppressed.unsubscribed_at, excluded.unsubscribed_at),
      bounced_at = coalesce(suppressed.bounced_at, excluded.bounced_at),
      complained_at = coalesce(suppressed.complained_at, excluded.complained_at)`);
  // Asked after it: whoever has come meanwhile is among them, or has found what was put here.
  const known = await rows<{ id: string; why: Suppression['why'] }>(
    db,
    sql`select p.id, a.why from jsonb_to_recordset(${batch(addresses)}) as a(email text, why text)
        join people p on p.workspace_id = ${ws} and p.email = a.email order by p.id`,
  );
  for (const { id, why } of known) await transact(db, (tx) => end(tx, ws, id, why, source, now));
  return known.length;
}

/** Takes an address that nobody has, and that was put here by hand, off again. Answers whether it was one. */
export async function release(db: Db, ws: string, hash: string): Promise<boolean> {
  const gone = await rows(
    db,
    sql`delete from suppressed where workspace_id = ${ws} and hash = ${hash} and email is not null returning 1`,
  );
  return gone.length > 0;
}
