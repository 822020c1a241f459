import { sql, type SQL } from 'drizzle-orm';
import type { JoinedHow, MailFact, SequenceFact } from '@ascenso/core';
import { LINK } from './atom-sql.ts';
import type { Executor } from './connect.ts';
import { LAST_CONSENT } from './consent.ts';
import { batch, rows } from './rows.ts';
import type { Wanted } from './wanted.ts';

// What is known of people beyond themselves and what they did: their mail, their lists, the sequences they went through.

/** The people of those whom it is asked of, once each, as a batch; null where it is asked of nobody. */
function peopleOf(wanted: readonly Wanted[]): SQL | null {
  const people = new Map(wanted.map((w) => [w.person_id, { workspace_id: w.workspace_id, person_id: w.person_id }]));
  return people.size > 0 ? batch([...people.values()]) : null;
}

/** Every email that people were sent, by person, where a condition asks for it. */
export async function mailOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, MailFact[]>> {
  const out = new Map<string, MailFact[]>();
  const people = peopleOf(wanted.filter((w) => w.mail));
  if (people === null) return out;
  const clicks = await clicksOf(db, wanted);
  const found = await rows<{ person: string; id: string } & Omit<MailFact, 'clicks'>>(
    db,
    sql`select s.person_id as person, s.id, s.due_at as "sentAt", s.opened_at as "openedAt", s.clicked_at as "clickedAt"
        from jsonb_to_recordset(${people}) as k(workspace_id uuid, person_id uuid)
        join sends s on s.workspace_id = k.workspace_id and s.person_id = k.person_id and s.visit_id is not null and s.status = 'sent'`,
  );
  for (const { person, id, ...mail } of found)
    out.set(person, [...(out.get(person) ?? []), { ...mail, clicks: clicks.get(id) ?? [] }]);
  return out;
}

async function clicksOf(
  db: Executor,
  wanted: readonly Wanted[],
): Promise<Map<string, NonNullable<MailFact['clicks']>>> {
  const out = new Map<string, NonNullable<MailFact['clicks']>>();
  const people = peopleOf(wanted.filter((w) => w.mailLinks));
  if (people === null) return out;
  const found = await rows<{ id: string; at: number; address: string; words: string }>(
    db,
    sql`select s.id, r.at, l.link->>'address' as address, l.link->>'label' as words
        from jsonb_to_recordset(${people}) as k(workspace_id uuid, person_id uuid)
        join sends s on s.workspace_id = k.workspace_id and s.person_id = k.person_id and s.visit_id is not null and s.status = 'sent'
        join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id and r.kind = 'click' and not r.prefetched and r.link_number is not null
        join programs g on g.workspace_id = s.workspace_id and g.hash = s.program_hash
        cross join lateral (select ${LINK} as link) l where l.link is not null`,
  );
  for (const { id, ...click } of found) out.set(id, [...(out.get(id) ?? []), click]);
  return out;
}

type Joined = Record<string, { at: number; how: JoinedHow | null }>;

/** Since when, and by what, people are on their lists, by person. */
export async function joinedOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, Joined>> {
  const out = new Map<string, Joined>();
  const people = peopleOf(wanted.filter((w) => w.joined));
  if (people === null) return out;
  const found = await rows<{ person: string; list: string; at: number; how: JoinedHow | null }>(
    db,
    sql`select m.person_id as person, m.list_id as list, m.at, (${LAST_CONSENT(sql`m.workspace_id`, sql`m.person_id`, sql`m.list_id`)}) as how
        from jsonb_to_recordset(${people}) as k(workspace_id uuid, person_id uuid)
        join memberships m on m.workspace_id = k.workspace_id and m.person_id = k.person_id and m.state = 'confirmed'`,
  );
  for (const { person, list, ...j } of found) out.set(person, { ...out.get(person), [list]: j });
  return out;
}

/** How people stand to the sequences that are asked for, by person. Whoever is held out was never in one. */
export async function standingsOf(
  db: Executor,
  wanted: readonly Wanted[],
): Promise<Map<string, Record<string, SequenceFact>>> {
  const out = new Map<string, Record<string, SequenceFact>>();
  const asking = wanted.filter((w) => w.sequences?.length);
  const people = peopleOf(asking);
  if (people === null) return out;
  const ids = [...new Set(asking.flatMap((w) => w.sequences ?? []))];
  const found = await rows<{ person: string; sequence: string } & SequenceFact>(
    db,
    sql`select v.person_id as person, v.sequence_id as sequence, bool_or(v.status = 'active') as inside,
          coalesce(bool_or(v.ending = 'end'), false) as ended, coalesce(bool_or(v.ending = 'goal'), false) as goal
        from jsonb_to_recordset(${people}) as k(workspace_id uuid, person_id uuid)
        join visits v on v.workspace_id = k.workspace_id and v.person_id = k.person_id and not v.held_out
        where v.sequence_id::text = any (${sql.param(ids)}::text[]) group by 1, 2`,
  );
  for (const { person, sequence, ...s } of found) out.set(person, { ...out.get(person), [sequence]: s });
  return out;
}
