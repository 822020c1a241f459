import { and, eq, sql, type SQL } from 'drizzle-orm';
import { namesOf, PAGE_EVENT } from '@ascenso/contracts';
import type { PeopleAnswer, PersonAnswer, PersonEvent, PersonRow, ReaderAnswer, StoryEntry } from '@ascenso/contracts';
import {
  EXPIRED_EVENT,
  ISSUED_EVENT,
  SEEN_EVENT,
  RESUBSCRIBED_EVENT,
  USED_EVENT,
  type MembershipState,
  traceNames,
  traceSentence,
  type Sequence,
  type TraceEntry,
  type Names,
} from '@ascenso/core';
import { notFound } from '../app/errors.ts';
import { AS_OF_NOW, countedNow, type Kept } from '../app/kept.ts';
import type { Executor } from './connect.ts';
import { loadFacts } from './facts.ts';
import { consentOf } from './consent.ts';
import { onList } from './on-list.ts';
import { firstRow, rows } from './rows.ts';
import { events, people } from './schema/index.ts';
import { loadNamed } from './surroundings.ts';

const COLUMNS = sql`id, email, attributes, tags, points, zone, mail_status as "mailStatus", created_at as "createdAt"`;

/** Which people: all of it has to hold. */
export interface PeopleFilter {
  /** Part of an address or a name, '' for any. */
  search: string;
  /** Only those who did this event. */
  did?: string | undefined;
  /** Only those who are in each of these, where given. */
  ids?: readonly (readonly string[])[] | undefined;
  /** List whose confirmed people these are. */
  within?: string | undefined;
}

export interface PeopleQuery extends PeopleFilter {
  offset: number;
  limit: number;
  /** List whose confirmed people come first. */
  on?: string | undefined;
  /** What they are ordered by: newest first where it is not said. */
  by?: PeopleOrder | undefined;
}

export interface PeopleOrder {
  by: 'known' | 'email' | 'points' | { attribute: string };
  down: boolean;
}

/** An order as SQL; who has no value comes last. Where everybody has one it is as an index has it, which is then read. */
function orderSql({ by, down }: PeopleOrder): SQL {
  const way = down ? sql`desc` : sql`asc`;
  if (typeof by === 'object') return sql`attributes->${by.attribute} ${way} nulls last`;
  switch (by) {
    case 'known':
      return sql`created_at ${way}`;
    case 'email':
      return sql`email ${way}`;
    case 'points':
      return sql`points ${way}`;
  }
}

/** Ids of all who fit. */
export const idsOf = async (db: Executor, ws: string, filter: PeopleFilter): Promise<string[]> =>
  (await rows<{ id: string }>(db, sql`select id from people where ${peopleWhere(ws, filter)} order by id`)).map(
    (p) => p.id,
  );

/** A filter as SQL over `people`. */
export function peopleWhere(ws: string, q: PeopleFilter): SQL {
  const like = `%${q.search.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`;
  return sql.join(
    [
      sql`workspace_id = ${ws}`,
      ...(q.search
        ? [
            sql`(email like ${like} or lower(coalesce(attributes->>'first_name', '') || ' ' || coalesce(attributes->>'last_name', '')) like ${like})`,
          ]
        : []),
      ...(q.ids ?? []).map((ids) => sql`id = any (${sql.param(ids)}::uuid[])`),
      ...(q.within ? [onList('people', q.within)] : []),
      ...(q.did
        ? [
            sql`exists (select 1 from events e where e.workspace_id = people.workspace_id and e.person_id = people.id and e.name = ${q.did})`,
          ]
        : []),
    ],
    sql` and `,
  );
}

/** How many people there are, of a kind. */
async function countPeople(db: Executor, where: SQL): Promise<number> {
  const total = await firstRow<{ n: number }>(db, sql`select count(*) as n from people where ${where}`);
  return total?.n ?? 0;
}

/** A page of people, newest first, and how many there are. */
export async function listPeople(
  db: Executor,
  ws: string,
  q: PeopleQuery,
  kept: Kept = countedNow,
): Promise<PeopleAnswer> {
  const where = peopleWhere(ws, q);
  // Whom a list may mail first: an email is read as, and a sequence rehearsed with, somebody who would get it.
  const onFirst = q.on ? sql`${onList('people', q.on)} desc,` : sql``;
  const found = await rows<PersonRow>(
    db,
    sql`select ${COLUMNS} from people where ${where} order by ${onFirst} ${orderSql(q.by ?? { by: 'known', down: true })}, id limit ${q.limit} offset ${q.offset}`,
  );
  const { search, ids, did, within } = q;
  const count = () => countPeople(db, where);
  // Whoever is named by ids is few, and counted at once.
  const total = ids?.length
    ? await count()
    : await kept(`people ${JSON.stringify([search, did, within])}`, count, AS_OF_NOW);
  return { people: found, total };
}

export async function hasPerson(db: Executor, ws: string, id: string): Promise<boolean> {
  const found = await db
    .select({ id: people.id })
    .from(people)
    .where(and(eq(people.workspaceId, ws), sql`${people.id}::text = ${id}`));
  return found.length > 0;
}

/** Payload of one event of a person, or undefined. */
export async function payloadOf(
  db: Executor,
  ws: string,
  person: string,
  event: string,
): Promise<Record<string, unknown> | undefined> {
  const [row] = await db
    .select({ payload: events.payload })
    .from(events)
    .where(and(eq(events.workspaceId, ws), eq(events.personId, person), eq(events.id, event)));
  return row?.payload;
}

/** One person with the events of late, newest first: what an email can be read with. */
export async function readerOf(db: Executor, ws: string, personId: string): Promise<ReaderAnswer> {
  const person = await firstRow<PersonRow>(
    db,
    sql`select ${COLUMNS} from people where workspace_id = ${ws} and id = ${personId}`,
  );
  if (!person) throw notFound('person');
  const events = await rows<PersonEvent>(
    db,
    sql`select id, name, occurred_at as at, payload from events where workspace_id = ${ws} and person_id = ${personId} order by occurred_at desc, id desc limit 50`,
  );
  const lists = await rows<{ list: string; state: MembershipState }>(
    db,
    sql`select list_id as list, state from memberships where workspace_id = ${ws} and person_id = ${personId}`,
  );
  const given = await givenTo(db, ws, personId);
  const sequences = (await rows<{ id: string }>(db, sql`select id from sequences where workspace_id = ${ws}`)).map(
    (s) => s.id,
  );
  const wanted = { workspace_id: ws, visit_id: personId, person_id: personId, sequences };
  const facts = (await loadFacts(db, [{ ...wanted, mail: true, mailLinks: true, joined: true }])).get(personId);
  const { joined = {}, pausedUntil = null, pace = null } = facts?.person ?? {};
  return {
    known: { joined, pausedUntil, pace },
    mail: [...(facts?.mail ?? [])],
    sequences: facts?.sequences ?? {},
    person,
    events,
    lists: Object.fromEntries(lists.map((l) => [l.list, l.state])),
    given: Object.fromEntries(given.map(({ id, name: _, ...g }) => [id, g])),
  };
}

/** Offers that a person has been given, the latest first. */
const givenTo = (db: Executor, ws: string, personId: string) =>
  rows<PersonAnswer['offers'][number]>(
    db,
    sql`select o.id, o.doc->>'name' as name, g.opened_at as "openedAt", g.closes_at as "closesAt", g.code, g.used_at as "usedAt", g.discount
        from offer_grants g join offers o on o.workspace_id = g.workspace_id and o.id = g.offer_id
        where g.workspace_id = ${ws} and g.person_id = ${personId} order by g.opened_at desc`,
  );

interface TraceRow extends TraceEntry {
  id: string;
  sequence_id: string;
  visit_id: string;
  version: number;
  send: string | null;
  /** Of an email, what has become of it. */
  became: string | null;
}

/** One person with the whole story, newest first, in words. */
export async function personStory(db: Executor, ws: string, id: string, zone: string): Promise<PersonAnswer> {
  const { person, events } = await readerOf(db, ws, id);
  const lists = await rows<PersonAnswer['lists'][number]>(
    db,
    sql`select l.id, l.name, m.state from memberships m join lists l on l.workspace_id = m.workspace_id and l.id = m.list_id where m.workspace_id = ${ws} and m.person_id = ${id} order by l.name`,
  );
  const ends = (await firstRow<PersonAnswer['ends']>(
    db,
    sql`select unsubscribed_at as unsubscribed, bounced_at as bounced, complained_at as complained from people where workspace_id = ${ws} and id = ${id}`,
  )) ?? { unsubscribed: null, bounced: null, complained: null };
  const words = namesOf(await loadNamed(db, ws));
  const docs = await rows<{ sequence_id: string; number: number; doc: Sequence }>(
    db,
    sql`select v.sequence_id, v.number, v.doc from versions v
        where v.workspace_id = ${ws} and (v.sequence_id, v.number) in (select sequence_id, version from traces where workspace_id = ${ws} and person_id = ${id})`,
  );
  const docOf = (seq: string, version: number) => docs.find((d) => d.sequence_id === seq && d.number === version)?.doc;
  const traces = await rows<TraceRow>(
    db,
    sql`select t.id || ' ' || lpad(t.n::text, 4, '0') as id, t.at, t.step, t.code, t.data, t.sequence_id, t.visit_id, t.version,
          s.id as send, s.status as became
        from reasons t left join lateral (
          select case when s."values" is not null then s.id end as id, s.status from sends s where t.code = 'email-sent' and s.workspace_id = t.workspace_id and s.visit_id = t.visit_id and s.step = t.step) s on true where t.workspace_id = ${ws} and t.person_id = ${id} order by t.at desc, t.id desc, t.n desc limit 500`,
  );
  const story: (StoryEntry & { id: string })[] = traces.map((t) => {
    const doc = docOf(t.sequence_id, t.version);
    return {
      at: t.at,
      kind: 'trace',
      text: traceSentence(t.became ? { ...t, data: { ...t.data, became: t.became } } : t, traceNames(doc, words, zone)),
      sequence: { id: t.sequence_id, name: doc?.name ?? '' },
      send: t.send,
      id: t.id,
    };
  });
  for (const e of events)
    story.push({ at: e.at, kind: 'event', text: eventWords(e, words), sequence: null, send: null, id: e.id });
  const readings = await rows<{
    id: string;
    at: number;
    kind: 'open' | 'click';
    step: string;
    sequence_id: string;
    version: number;
    label: string | null;
    test: boolean;
  }>(
    db,
    sql`select r.id, r.at, r.kind, s.step, s.sequence_id, s.version, case when r.link_repeat is null then p.program->'links'->r.link_number else p.program->'repeats'->r.link_repeat->'links'->r.link_number end->>'label' as label, s.visit_id is null as test
        from sends s join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id
        join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash
        where s.workspace_id = ${ws} and s.person_id = ${id} and not r.prefetched and s.visit_id is not null order by r.at desc limit 200`,
  );
  for (const r of readings) {
    const doc = docOf(r.sequence_id, r.version);
    const email = traceNames(doc, words, zone).step(r.step);
    story.push({
      at: r.at,
      kind: r.kind,
      text: r.kind === 'open' ? `Opened “${email}”.` : `Clicked “${r.label ?? 'a link'}” in “${email}”.`,
      sequence: { id: r.sequence_id, name: doc?.name ?? '' },
      send: null,
      id: r.id,
    });
  }
  // Ids are ordered by when they were made: at one moment, what caused something stands below it.
  story.sort((a, b) => b.at - a.at || (a.id < b.id ? 1 : -1));
  const visits = await rows<{ sequence_id: string; version: number; step: string; due_at: number }>(
    db,
    sql`select sequence_id, version, step, due_at from visits where workspace_id = ${ws} and person_id = ${id} and status = 'active'`,
  );
  const inside = visits.map((v) => {
    const doc = docOf(v.sequence_id, v.version);
    return {
      sequence: v.sequence_id,
      name: doc?.name ?? '',
      step: traceNames(doc, words, zone).step(v.step),
      due: v.due_at,
    };
  });
  return {
    person,
    ends,
    lists,
    consent: await consentOf(db, ws, id),
    inside,
    offers: await givenTo(db, ws, id),
    story: story.map(({ id: _, ...s }) => s),
  };
}

function eventWords(e: PersonEvent, words: Pick<Names, 'event'>): string {
  if (e.name === 'file.downloaded') return `Downloaded “${String(e.payload.name ?? 'a file')}”.`;
  if (e.name === USED_EVENT)
    return `Used “${String(e.payload.name)}”, code ${String(e.payload.code)}, in order ${String(e.payload.order)}: ${String(e.payload.total)} ${String(e.payload.currency)}.`;
  if (e.name === ISSUED_EVENT)
    return `“${String(e.payload.name)}” was shown to them for the first time${e.payload.code ? `, code ${String(e.payload.code)}` : ''}.`;
  if (e.name === SEEN_EVENT) return `Opened an email with “${String(e.payload.name)}”.`;
  if (e.name === EXPIRED_EVENT) return `“${String(e.payload.name)}” closed unused.`;
  if (e.name === RESUBSCRIBED_EVENT)
    return `Confirmed “${String(e.payload.list)}” again${e.payload.by === 'team' ? ', entered by the team' : ''}: its mail goes to them again, other lists stay off.`;
  if (e.name === 'email.returned')
    return `An email came back${e.payload.final ? ' for good' : ''}: ${String(e.payload.status)}${e.payload.answer ? `, ${String(e.payload.answer)}` : ''}.`;
  if (e.name === 'email.unread') return `Something came back that is not understood: “${String(e.payload.words)}”.`;
  if (e.name === PAGE_EVENT)
    return `Reached “${String(e.payload.title || e.payload.page)}”, ${String(e.payload.site)}${String(e.payload.page)}.`;
  if (e.name === 'complained') return 'Called an email spam: all marketing has stopped.';
  if (e.name === 'unsubscribed') return 'Unsubscribed: all but service mail has stopped.';
  const total = typeof e.payload.total === 'number' ? `, total ${e.payload.total}` : '';
  return `${words.event(e.name)}${total}.`;
}
