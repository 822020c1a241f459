import { sql } from 'drizzle-orm';
import {
  askedBy,
  askedTogether,
  type Condition,
  type Discount,
  type EmailFact,
  type EventFact,
  type Facts,
  type Given,
  type MailStatus,
  type MembershipState,
  type Offer,
  type OfferFact,
  type Value,
  zoneOfPerson,
} from '@ascenso/core';
import type { Executor } from './connect.ts';
import { batch, rows } from './rows.ts';
import { joinedOf, mailOf, standingsOf } from './standings.ts';
import type { Wanted } from './wanted.ts';

interface PersonRow {
  id: string;
  workspace_id: string;
  email: string;
  attributes: Record<string, Value>;
  tags: string[];
  points: number;
  zone: string | null;
  home_zone: string;
  paused_until: number | null;
  pace: number | null;
  paced_at: number | null;
  mail_status: MailStatus;
  lists: Record<string, MembershipState> | null;
}

type Rules = Record<string, Condition>;

/** Rules of the segments that are asked for, by workspace. */
async function segmentsOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, Rules>> {
  const asked = wanted.filter((w) => w.segments?.length);
  const out = new Map<string, Rules>();
  if (asked.length === 0) return out;
  const found = await rows<{ workspace_id: string; id: string; rule: Condition }>(
    db,
    sql`select workspace_id, id, rule from segments where workspace_id = any (${sql.param([...new Set(asked.map((w) => w.workspace_id))])}::uuid[])`,
  );
  for (const s of found) out.set(s.workspace_id, { ...out.get(s.workspace_id), [s.id]: s.rule });
  return out;
}

/** A segment's rule asks for things of its own. */
const withRules = (w: Wanted, rules: Rules | undefined): Wanted => {
  if (!rules) return w;
  const asked = askedBy((w.segments ?? []).flatMap((id) => (rules[id] ? [rules[id]] : [])));
  return { ...w, ...askedTogether([w, asked]), lists: w.lists !== false || asked.lists };
};

/** Offers that are asked for, by `workspace/id`. */
async function offersOf(db: Executor, asked: readonly Wanted[]): Promise<Map<string, Offer>> {
  const some = asked.filter((w) => w.offers?.length);
  if (some.length === 0) return new Map();
  const found = await rows<{ workspace_id: string; id: string; doc: Offer }>(
    db,
    sql`select workspace_id, id, doc from offers where workspace_id = any (${sql.param([...new Set(some.map((w) => w.workspace_id))])}::uuid[])
          and id::text = any (${sql.param([...new Set(some.flatMap((w) => w.offers ?? []))])}::text[])`,
  );
  return new Map(found.map((o) => [`${o.workspace_id}/${o.id}`, o.doc]));
}

/** A deadline can count from an event. */
const withDeadlines = (w: Wanted, offers: ReadonlyMap<string, Offer>): Wanted => {
  const events = (w.offers ?? []).flatMap((id) => {
    const deadline = offers.get(`${w.workspace_id}/${id}`)?.deadline;
    return deadline?.kind === 'after' && deadline.from === 'event' ? [deadline.event] : [];
  });
  return events.length > 0 ? { ...w, events: [...(w.events ?? []), ...events] } : w;
};

/** What people have been given of the offers that are asked for, by person and offer. */
async function givenOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, Given>> {
  const asked = wanted.flatMap((w) =>
    (w.offers ?? []).map((offer) => ({ w: w.workspace_id, person: w.person_id, offer })),
  );
  if (asked.length === 0) return new Map();
  const found = await rows<{
    person_id: string;
    offer_id: string;
    opened_at: number;
    closes_at: number | null;
    code: string | null;
    used_at: number | null;
    discount: Discount;
  }>(
    db,
    sql`select g.person_id, g.offer_id, g.opened_at, g.closes_at, g.code, g.used_at, g.discount
        from (select distinct * from jsonb_to_recordset(${batch(asked)}) as k(w uuid, person uuid, offer text)) k
        join offer_grants g on g.workspace_id = k.w and g.person_id = k.person and g.offer_id::text = k.offer`,
  );
  return new Map(
    found.map((g) => [
      `${g.person_id}/${g.offer_id}`,
      { openedAt: g.opened_at, closesAt: g.closes_at, code: g.code, usedAt: g.used_at, discount: g.discount },
    ]),
  );
}

/** Facts of many visits in a handful of queries, by visit id. A visit whose person is gone is left out. */
export async function loadFacts(db: Executor, asked: readonly Wanted[]): Promise<Map<string, Facts>> {
  const segments = await segmentsOf(db, asked);
  const ruled = segments.size > 0 ? asked.map((w) => withRules(w, segments.get(w.workspace_id))) : asked;
  const offers = await offersOf(db, ruled);
  const wanted = offers.size > 0 ? ruled.map((w) => withDeadlines(w, offers)) : ruled;
  const keys = batch(wanted.map(({ workspace_id, person_id, lists = true }) => ({ workspace_id, person_id, lists })));
  const people = await rows<PersonRow>(
    db,
    sql`select p.id, p.workspace_id, p.email, p.attributes, p.tags, p.points, p.zone, w.zone as home_zone, p.mail_status, p.paused_until, p.pace, p.paced_at,
          case when k.lists then (select jsonb_object_agg(m.list_id, m.state) from memberships m where m.workspace_id = p.workspace_id and m.person_id = p.id) end as lists
        from (select workspace_id, person_id, bool_or(lists) as lists from jsonb_to_recordset(${keys}) as k(workspace_id uuid, person_id uuid, lists boolean) group by 1, 2) k
        join people p on p.workspace_id = k.workspace_id and p.id = k.person_id
        join workspaces w on w.id = p.workspace_id`,
  );
  const events = await eventsOf(db, wanted);
  const emails = await emailsOf(db, wanted);
  const given = await givenOf(db, wanted);
  const mail = await mailOf(db, wanted);
  const joined = await joinedOf(db, wanted);
  const asksJoined = new Set(wanted.flatMap((w) => (w.joined ? [w.person_id] : [])));
  const standings = await standingsOf(db, wanted);
  const factOf = (w: Wanted, id: string): [string, OfferFact][] => {
    const offer = offers.get(`${w.workspace_id}/${id}`);
    // How many codes are left is known to whoever gives them; others take it that there are some.
    return offer ? [[id, { offer, given: given.get(`${w.person_id}/${id}`) ?? null, stock: true }]] : [];
  };
  const byPerson = new Map(people.map((p) => [p.id, p]));
  const out = new Map<string, Facts>();
  for (const w of wanted) {
    const p = byPerson.get(w.person_id);
    if (!p) continue;
    out.set(w.key ?? w.visit_id, {
      person: {
        id: p.id,
        email: p.email,
        mailStatus: p.mail_status,
        ...zoneOfPerson(p.zone, p.home_zone),
        attributes: p.attributes,
        tags: p.tags,
        points: p.points,
        lists: p.lists ?? {},
        pausedUntil: p.paused_until,
        pace: p.pace === null ? null : { days: p.pace, last: p.paced_at },
        // For all their visits of a batch where one asks: what the first changes about them, the next one sees.
        ...(asksJoined.has(p.id) ? { joined: joined.get(p.id) ?? {} } : {}),
      },
      events: (events.get(w.person_id) ?? []).filter((e) => w.events?.includes(e.name)),
      ...(w.mail ? { mail: mail.get(p.id) ?? [] } : {}),
      ...(w.sequences?.length ? { sequences: standings.get(p.id) ?? {} } : {}),
      emails: emails.get(w.visit_id) ?? {},
      ...(w.offers ? { offers: Object.fromEntries(w.offers.flatMap((id) => factOf(w, id))) } : {}),
      ...(w.segments?.length ? { segments: segments.get(w.workspace_id) ?? {} } : {}),
    });
  }
  return out;
}

async function eventsOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, EventFact[]>> {
  const asked = wanted.flatMap((w) =>
    (w.events ?? []).map((name) => ({ workspace_id: w.workspace_id, person_id: w.person_id, name })),
  );
  const out = new Map<string, EventFact[]>();
  if (asked.length === 0) return out;
  const found = await rows<{
    id: string;
    person_id: string;
    name: string;
    occurred_at: number;
    payload: EventFact['payload'];
  }>(
    db,
    sql`select e.id, e.person_id, e.name, e.occurred_at, e.payload
        from (select distinct * from jsonb_to_recordset(${batch(asked)}) as k(workspace_id uuid, person_id uuid, name text)) k
        join events e on e.workspace_id = k.workspace_id and e.person_id = k.person_id and e.name = k.name
        order by e.occurred_at, e.id`,
  );
  for (const e of found) {
    const list = out.get(e.person_id) ?? [];
    list.push({ id: e.id, name: e.name, at: e.occurred_at, payload: e.payload });
    out.set(e.person_id, list);
  }
  return out;
}

/** First clicks per link of the visits' emails, by visit and step, for those whose conditions ask for a link. */
async function linksOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, Record<string, number>>> {
  const asked = wanted.filter((w) => w.links).map(({ workspace_id, visit_id }) => ({ workspace_id, visit_id }));
  const out = new Map<string, Record<string, number>>();
  if (asked.length === 0) return out;
  const found = await rows<{ visit_id: string; step: string; address: string; at: number }>(
    db,
    sql`select s.visit_id, s.step, case when r.link_repeat is null then p.program->'links'->r.link_number else p.program->'repeats'->r.link_repeat->'links'->r.link_number end->>'address' as address, min(r.at) as at
        from jsonb_to_recordset(${batch(asked)}) as k(workspace_id uuid, visit_id uuid)
        join sends s on s.workspace_id = k.workspace_id and s.visit_id = k.visit_id
        join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id and r.kind = 'click' and not r.prefetched and r.link_number is not null
        join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash
        group by 1, 2, 3`,
  );
  for (const { visit_id, step, address, at } of found) {
    const key = `${visit_id}/${step}`;
    out.set(key, { ...out.get(key), [address]: at });
  }
  return out;
}

async function emailsOf(db: Executor, wanted: readonly Wanted[]): Promise<Map<string, Record<string, EmailFact>>> {
  const asked = wanted.filter((w) => w.emails).map(({ workspace_id, visit_id }) => ({ workspace_id, visit_id }));
  const out = new Map<string, Record<string, EmailFact>>();
  if (asked.length === 0) return out;
  const links = await linksOf(db, wanted);
  const found = await rows<{
    visit_id: string;
    step: string;
    due_at: number;
    opened_at: number | null;
    clicked_at: number | null;
  }>(
    db,
    sql`select s.visit_id, s.step, s.due_at, s.opened_at, s.clicked_at
        from jsonb_to_recordset(${batch(asked)}) as k(workspace_id uuid, visit_id uuid)
        join sends s on s.workspace_id = k.workspace_id and s.visit_id = k.visit_id and s.status = 'sent'`,
  );
  for (const s of found) {
    const steps = out.get(s.visit_id) ?? {};
    const own = links.get(`${s.visit_id}/${s.step}`);
    steps[s.step] = {
      sentAt: s.due_at,
      openedAt: s.opened_at,
      clickedAt: s.clicked_at,
      ...(own ? { links: own } : {}),
    };
    out.set(s.visit_id, steps);
  }
  return out;
}
