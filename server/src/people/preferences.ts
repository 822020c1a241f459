import { and, eq, sql } from 'drizzle-orm';
import { DAY } from '@ascenso/core';
import type { Db, Tx } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { people } from '../db/schema/index.ts';
import { transact } from '../db/transact.ts';
import { changeAttributes, fittingAttributes } from './attributes.ts';
import { noteConsent } from './consent.ts';
import { setMembership } from './memberships.ts';

/** How long a pause lasts. */
const PAUSE = 30 * DAY;

/** A list as its reader sees it, and whether they are on it. */
export interface OfferedList {
  id: string;
  name: string;
  told: string;
  on: boolean;
}

/** Lists that somebody is on or has been on: those they can choose among. */
export const listsOffered = (db: Db, ws: string, person: string): Promise<OfferedList[]> =>
  rows(
    db,
    sql`select l.id, coalesce(nullif(l.public_name, ''), l.name) as name, l.told, m.state = 'confirmed' and p.unsubscribed_at is null as on
        from memberships m join people p on p.workspace_id = m.workspace_id and p.id = m.person_id join lists l on l.workspace_id = m.workspace_id and l.id = m.list_id
        where m.workspace_id = ${ws} and m.person_id = ${person} and m.state in ('confirmed', 'left') order by 2`,
  );

export interface Preferences {
  /** Of those that are offered, the lists they want. */
  lists: readonly string[];
  paused: boolean;
  /** Days between emails, or null for as they come. */
  pace: number | null;
  language: string | null;
}

const source = { how: 'preferences', label: '', words: '' } as const;

/** Days between emails that somebody can choose. */
export const PACES = [7, 30] as const;

/** Emails that only their wish has held are due now: their windows are asked again. */
const letGo = (tx: Tx, ws: string, person: string, code: 'email-paused' | 'email-paced', now: number) =>
  tx.execute(sql`
    update visits v set due_at = ${now}, wake_at = ${now} where v.workspace_id = ${ws} and v.person_id = ${person} and v.status = 'active' and v.due_at > ${now}
      and exists (select 1 from reasons r where r.workspace_id = v.workspace_id and r.visit_id = v.id and r.step = v.step and r.code = ${code})`);

/** What somebody chooses on their own page. Single lists are left or joined again; a pause begins or ends. */
export async function choose(
  db: Db,
  ws: string,
  person: string,
  { lists, paused, pace, language }: Preferences,
  where: string | null,
  now: number,
): Promise<void> {
  const offered = await listsOffered(db, ws, person);
  await transact(db, async (tx) => {
    for (const l of offered) {
      const on = lists.includes(l.id);
      if (on !== l.on)
        await setMembership(tx, ws, person, l.id, on ? 'confirmed' : 'left', now, {
          kind: 'owner',
          confirmedAt: now,
          source,
          where,
        });
    }
    const one = and(eq(people.workspaceId, ws), eq(people.id, person));
    const [known] = await tx
      .select({ until: people.pausedUntil, pace: people.pace })
      .from(people)
      .where(one)
      .for('update');
    const running = (known?.until ?? 0) > now;
    if (paused !== running) {
      await tx
        .update(people)
        .set({ pausedUntil: paused ? now + PAUSE : null })
        .where(one);
      if (running) await letGo(tx, ws, person, 'email-paused', now);
    }
    if (known && pace !== known.pace) {
      // The last email counts, whenever it went: who wants one a week has had this week's.
      await tx.execute(
        sql`update people p set pace = ${pace}, paced_at = (
              select max(s.due_at) from sends s join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.sequence_id and v.number = s.version
              where s.workspace_id = p.workspace_id and s.person_id = p.id and s.visit_id is not null and s.status in ('queued', 'leased', 'sent') and v.doc->>'list' is not null)
            where p.workspace_id = ${ws} and p.id = ${person}`,
      );
      await letGo(tx, ws, person, 'email-paced', now);
    }
    if (language !== null) await changeAttributes(tx, ws, person, await fittingAttributes(tx, ws, { language }), now);
  });
}

/** Why somebody left, where they say so: kept in their record of consent. */
export const tellWhy = (db: Db, ws: string, person: string, why: string, now: number): Promise<void> =>
  transact(db, (tx) =>
    noteConsent(tx, ws, person, { list: null, what: 'left', at: now, source: { ...source, words: why } }),
  );
