import { sql } from 'drizzle-orm';
import { DAY, dayNumber, fromWall, isZone, zoneOf, type Condition } from '@ascenso/core';
import { countMatching } from '../db/conditions.ts';
import type { Connection } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';

/**
 * Counts one segment whose day has come, and keeps its size for that day; next at the following midnight of the workspace.
 * Any number of processes may: each takes another. Answers how many it counted.
 */
export async function sizeRound({ db }: Connection, now: number): Promise<number> {
  return db.transaction(async (tx) => {
    const s = await firstRow<{ ws: string; id: string; rule: Condition; zone: string }>(
      tx,
      sql`select s.workspace_id as ws, s.id, s.rule, w.zone from segments s join workspaces w on w.id = s.workspace_id
          where s.count_at <= ${now} order by s.count_at, s.id limit 1 for update of s skip locked`,
    );
    if (!s) return 0;
    const zone = zoneOf(isZone(s.zone) ? s.zone : 'UTC');
    const day = dayNumber(zone, now);
    const people = await countMatching(tx, s.ws, s.rule, now);
    await tx.execute(
      sql`insert into segment_sizes (workspace_id, segment_id, day, people) values (${s.ws}, ${s.id}, ${day}, ${people})
          on conflict (workspace_id, segment_id, day) do update set people = excluded.people`,
    );
    const midnight = Math.max(fromWall(zone, (day + 1) * DAY), now + 1);
    await tx.execute(sql`update segments set count_at = ${midnight} where workspace_id = ${s.ws} and id = ${s.id}`);
    return 1;
  });
}
