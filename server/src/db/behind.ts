import { sql } from 'drizzle-orm';
import { behindOf, plainStyle, type Behind, type HouseStyle, type Materials, type Supplies } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

/** What emails of a workspace draw on: its style, shared blocks, senders. */
async function loadSupplies(db: Executor, ws: string): Promise<Supplies> {
  const workspace = await firstRow<{ style: HouseStyle }>(db, sql`select style from workspaces where id = ${ws}`);
  return {
    style: { ...plainStyle, ...workspace?.style },
    shared: await rows<Supplies['shared'][number]>(
      db,
      sql`select id, name, blocks from shared_blocks where workspace_id = ${ws}`,
    ),
    senders: await rows<Supplies['senders'][number]>(
      db,
      sql`select id, name, email, fields, is_default as "isDefault" from senders where workspace_id = ${ws}`,
    ),
  };
}

export interface BehindRow {
  id: string;
  name: string;
  behind: Behind[];
}

/** A one-off send that everybody is through: nothing more goes out of it. */
const IS_OVER = sql`s.let_in_at is not null and not s.triggers @? '$[*] ? (@.kind != "moment")'
  and not exists (select 1 from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active')`;

/** Live and paused sequences, but for one-off sends that are over, whose version was made before something of the house changed, with what that is. */
export async function sequencesBehind(db: Executor, ws: string, only?: string): Promise<BehindRow[]> {
  const live = await rows<{ id: string; name: string; made: Materials }>(
    db,
    sql`select s.id, s.name, v.made from sequences s
        join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.status in ('live', 'paused') and not (${IS_OVER}) ${only === undefined ? sql`` : sql`and s.id = ${only}`}
        order by s.name`,
  );
  const supplies = await loadSupplies(db, ws);
  return live
    .map(({ id, name, made }) => ({ id, name, behind: behindOf(made, supplies) }))
    .filter((s) => s.behind.length > 0);
}
