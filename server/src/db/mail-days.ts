import { sql } from 'drizzle-orm';
import type { Executor } from './connect.ts';
import { batch, firstRow, rows } from './rows.ts';

/** Marketing emails to one person on one day, at most; null where a workspace has no cap. */
export const dailyCapOf = async (db: Executor, ws: string): Promise<number | null> =>
  (await firstRow<{ cap: number | null }>(db, sql`select daily_cap as cap from workspaces where id = ${ws}`))?.cap ??
  null;

/** How many each of some people was given of late, by local day (days since 1970 in their zone); the key is "workspace/person". */
export async function givenTo(
  db: Executor,
  people: readonly { w: string; p: string }[],
): Promise<Map<string, Record<number, number>>> {
  const known = await rows<{ w: string; person: string; day: number; given: number }>(
    db,
    sql`select d.workspace_id as w, d.person_id as person, d.day, d.given from (select distinct w, p from jsonb_to_recordset(${batch(people)}) as k(w uuid, p uuid)) k
        join mail_days d on d.workspace_id = k.w and d.person_id = k.p and d.day > (select max(day) - 4 from mail_days m where m.workspace_id = k.w and m.person_id = k.p)`,
  );
  const out = new Map<string, Record<number, number>>();
  for (const { w, person, day, given } of known) {
    const key = `${w}/${person}`;
    out.set(key, { ...out.get(key), [day]: given });
  }
  return out;
}
