import { sql } from 'drizzle-orm';
import type { ClockAnswer } from '@ascenso/contracts';
import { DAY } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** No look is due any more, or not before somebody says so. */
export const NEVER = 100_000_000 * DAY;

/** A look for everybody that has not begun: nobody has been taken in yet. As a row of `sweeps w`. */
export const notBegun = sql`w.trigger->>'kind' = 'moment' and w.swept_to = 0 and w.pass_to is null`;

/** One-offs that have been sent off and wait for their minutes of grace. */
export const leaving = async (db: Executor, ws: string): Promise<ClockAnswer['leaving']> =>
  rows(
    db,
    sql`select s.id, s.name, w.next_at as at from sweeps w join sequences s on s.workspace_id = w.workspace_id and s.id = w.sequence_id
        where w.workspace_id = ${ws} and ${notBegun} and w.next_at > ${await businessNow(db)} and s.status = 'live' order by w.next_at, s.id`,
  );
