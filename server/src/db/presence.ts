import { sql } from 'drizzle-orm';
import type { Present } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** Whoever has not been heard of for so long has gone, seconds of the system clock. */
const GONE_AFTER = 25;

/** Notes that somebody has a sequence open, at an email or at its plan (null), and answers who else has. */
export async function notePresence(
  db: Executor,
  at: { ws: string; sequence: string; user: string; tab: string; step: string | null },
): Promise<Present[]> {
  await db.execute(sql`
    insert into presence (workspace_id, sequence_id, tab, user_id, step, seen_at)
    values (${at.ws}, ${at.sequence}, ${at.tab}, ${at.user}, ${at.step}, now())
    on conflict (workspace_id, sequence_id, tab) do update set step = excluded.step, seen_at = excluded.seen_at`);
  await db.execute(sql`
    delete from presence where workspace_id = ${at.ws} and sequence_id = ${at.sequence} and seen_at < now() - make_interval(secs => ${GONE_AFTER})`);
  return rows<Present>(
    db,
    sql`select distinct on (p.user_id) u.name, p.step from presence p join users u on u.id = p.user_id
        where p.workspace_id = ${at.ws} and p.sequence_id = ${at.sequence} and p.user_id <> ${at.user}
        order by p.user_id, p.seen_at desc`,
  );
}
