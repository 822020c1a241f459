import { sql, type SQL } from 'drizzle-orm';
import type { Ended } from '@ascenso/core';
import type { Tx } from '../../db/connect.ts';
import { rows } from '../../db/rows.ts';
import type { ConsentSource } from '../../people/consent.ts';
import { end } from '../../people/suppressing.ts';

/**
 * Ends mail to whom a file says that it has ended for, known or new, whatever else it may change of them. Nobody becomes
 * mailable by a file, and an undo gives nobody back what they had said no to.
 */
export async function endMail(
  tx: Tx,
  ws: string,
  chunk: SQL,
  source: { id: string; told: ConsentSource },
  now: number,
): Promise<void> {
  // Of somebody who is new nothing waits for the news.
  const [gone, saidNo] = [sql`r.mail = 'bounced'`, sql`r.mail in ('unsubscribed', 'complained')`];
  await tx.execute(sql`
    with fresh as (
      update people p set bounced_at = case when ${gone} then ${now}::bigint end, unsubscribed_at = coalesce(p.unsubscribed_at, case when r.mail = 'unsubscribed' then ${now}::bigint end),
        complained_at = case when r.mail = 'complained' then ${now}::bigint end
      from import_rows r where ${chunk} and r.mail <> 'ok' and r.before is null and p.workspace_id = r.workspace_id and p.id = r.person_id and p.mail_status = 'ok'
      returning p.id, ${saidNo} as no)
    insert into consents (workspace_id, person_id, id, list_id, what, at, source_id)
    select ${ws}, id, gen_random_uuid(), null, 'left', ${now}, ${source.id} from fresh where no`);
  const known = await rows<{ id: string; why: Ended }>(
    tx,
    sql`select p.id, r.mail as why from import_rows r join people p on p.workspace_id = r.workspace_id and p.email = r.email
        where ${chunk} and r.mail <> 'ok' and p.mail_status = 'ok' order by p.id`,
  );
  for (const { id, why } of known) await end(tx, ws, id, why, source.told, now);
}
