import { sql, type SQL } from 'drizzle-orm';
import type { Job } from './job.ts';

// How a row `r` of a file meets a person `p` who is known: the one rule of counting, of taking in and of undoing.

/** The rows of an import, as `r`. */
export const mine = (job: Job): SQL => sql`r.workspace_id = ${job.ws} and r.import_id = ${job.id}`;

/**
 * Whether a row has changed somebody who was known: then it keeps what they had before. A row that made its person needs no
 * mark: the person has the id that was ready for them.
 */
export const hasChanged: SQL = sql`(r.fault is null and r.before is not null)`;
/** The person whom a row has made, as `p`. */
export const madeBy: SQL = sql`join people p on p.workspace_id = r.workspace_id and p.id = r.person_id and r.before is null and r.fault is null`;

/** What the attributes become. */
export const merged = (job: Job): SQL =>
  job.plan.known === 'overwrite' ? sql`(p.attributes || r.attributes)` : sql`(r.attributes || p.attributes)`;

/** What the zone becomes. */
export const mergedZone = (job: Job): SQL =>
  job.plan.known === 'overwrite' ? sql`coalesce(r.zone, p.zone)` : sql`coalesce(p.zone, r.zone)`;

/** Whether anything of the person changes. Who has left a list stays off it. */
export const changes = (job: Job): SQL =>
  job.plan.known === 'leave'
    ? sql`false`
    : sql`(${merged(job)} <> p.attributes or ${mergedZone(job)} is distinct from p.zone or not r.tags <@ p.tags
           or exists (select 1 from unnest(r.lists) l where not exists (
                select 1 from memberships m where m.workspace_id = p.workspace_id and m.person_id = p.id and m.list_id = l and m.state in ('confirmed', 'left'))))`;
