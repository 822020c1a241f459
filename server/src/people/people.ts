import { sql } from 'drizzle-orm';
import { UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';

/** The person with an address, added when there is none. */
export async function personByEmail(tx: Tx, ws: string, email: string, now: number): Promise<string> {
  const id = newId();
  const made = await firstRow<{ id: string }>(
    tx,
    sql`insert into people (workspace_id, id, email, attributes, created_at) values (${ws}, ${id}, ${email}, '{}', ${now})
        on conflict (workspace_id, email) do update set email = excluded.email returning id`,
  );
  return made?.id ?? id;
}

/** Gives a person another address: what bounced was the old one. */
export async function changeAddress(tx: Tx, ws: string, personId: string, email: string): Promise<void> {
  const taken = await firstRow<{ id: string }>(
    tx,
    sql`select id from people where workspace_id = ${ws} and email = ${email} and id <> ${personId}`,
  );
  if (taken) throw new UserError(409, 'exists', 'There is already a person with this address.', 'email');
  await tx.execute(
    sql`update people set bounced_at = case when email = ${email} then bounced_at end, email = ${email} where workspace_id = ${ws} and id = ${personId}`,
  );
}

export async function changeZone(tx: Tx, ws: string, personId: string, zone: string | null): Promise<void> {
  await tx.execute(sql`update people set zone = ${zone} where workspace_id = ${ws} and id = ${personId}`);
}
