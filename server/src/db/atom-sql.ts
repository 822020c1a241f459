import { sql, type SQL } from 'drizzle-orm';
import {
  addPeriod,
  DAY,
  dayWindow,
  HOST_PATTERN,
  zoneOf,
  type AtomName,
  type AtomOf,
  type Condition,
  type Period,
  type Since,
  type Zone,
} from '@ascenso/core';
import { LAST_CONSENT } from './consent.ts';
import { day, valueAt, scalar, testSql } from './field-sql.ts';
import { onList } from './on-list.ts';

/** The link of a reading `r` in its program `g`. */
export const LINK = sql`case when r.link_repeat is null then g.program->'links'->r.link_number else g.program->'repeats'->r.link_repeat->'links'->r.link_number end`;

/** A condition that can only be asked about one person's passage through a sequence: about its emails, or since entry. */
export class AboutVisit extends Error {}

export interface Asked {
  /** Epoch ms. */
  now: number;
  /** Rules by segment id. */
  segments: Map<string, Condition>;
  /**
   * A value that hangs on where somebody lives, as SQL: worked out once for each zone that there is. The same key is the
   * same value.
   */
  inZone: (key: string, type: 'bigint' | 'text' | 'text[]', value: (zone: Zone) => unknown) => SQL;
}

/** The instant that lies a period from now by the calendar of the person's zone. */
const zoneInstant = ({ amount, unit }: Period, { now, inZone }: Asked): SQL =>
  inZone(`${amount} ${unit}`, 'bigint', (zone) => addPeriod(zone, now, amount, unit));

/** Whether an instant lies since when a question counts. A bound that is so everywhere lets partitions be left alone. */
function sinceSql(since: Since, at: SQL, asked: Asked): SQL | null {
  switch (since.kind) {
    case 'ever':
      return null;
    case 'period': {
      const back = { ...since, amount: -since.amount };
      const earliest = addPeriod(zoneOf('UTC'), asked.now, back.amount, back.unit) - 2 * DAY;
      return sql`${at} >= ${zoneInstant(back, asked)} and ${at} >= ${earliest}`;
    }
    case 'entry':
    case 'step':
      throw new AboutVisit();
  }
}

function eventSql(atom: AtomOf<'event'>, asked: Asked): SQL {
  const tests = [
    sql`e.workspace_id = p.workspace_id and e.person_id = p.id and e.name = ${atom.event} and e.occurred_at <= ${asked.now}`,
    sinceSql(atom.since, sql`e.occurred_at`, asked),
    ...atom.where.map((t) => testSql(t, valueAt(sql`e.payload`, t.field))),
  ].filter((s) => s !== null);
  const found = sql`from events e where ${sql.join(tests, sql` and `)}`;
  const value = atom.per === undefined ? null : valueAt(sql`e.payload`, atom.per);
  const same = value && sql`case when ${scalar(value)} then ${value} #>> '{}' end`;
  const did = same
    ? sql`exists (select 1 ${found} and ${same} <> '' group by ${same} having count(*) >= ${atom.times ?? 1})`
    : atom.times
      ? sql`(select count(*) ${found}) >= ${atom.times}`
      : sql`exists (select 1 ${found})`;
  return atom.done ? did : sql`not (${did})`;
}

/** The SQL of core's `isOfferState`. */
function offerSql({ offer, state, within, is }: AtomOf<'offer'>, asked: Asked): SQL {
  const { now } = asked;
  const used = sql`coalesce(g.used_at <= ${now}, false)`;
  const closed = sql`coalesce(g.closes_at <= ${now}, false)`;
  const open = sql`not ${used} and not ${closed}`;
  const test = {
    used,
    open,
    closed: sql`${closed} and not ${used}`,
    closing: sql`${open} and coalesce(g.closes_at <= ${zoneInstant(within, asked)}, false)`,
  }[state];
  const found = sql`exists (select 1 from offer_grants g where g.workspace_id = p.workspace_id and g.person_id = p.id and g.offer_id::text = ${offer} and g.opened_at <= ${now} and ${test})`;
  return is ? found : sql`not ${found}`;
}

const unless = (is: boolean, found: SQL): SQL => (is ? found : sql`not ${found}`);

function dateSql({ field, when, days, is }: AtomOf<'date'>, { now, inZone }: Asked): SQL {
  const value = day(valueAt(sql`p.attributes`, field));
  const part = (key: string, type: 'text' | 'text[]', of: 'from' | 'to' | 'among') =>
    inZone(
      `${when} ${days} ${key}`,
      type,
      (zone) => (dayWindow({ when, days }, zone, now) as Record<string, unknown>)[of],
    );
  const lies =
    when === 'anniversary'
      ? sql`substr(${value}, 6) = any (${part('among', 'text[]', 'among')})`
      : sql`${value} collate "C" between ${part('from', 'text', 'from')} and ${part('to', 'text', 'to')}`;
  return unless(is, sql`coalesce(${lies}, false)`);
}

/** The first click of a send whose link leads to a host, or says some words. */
function clickSql(link: NonNullable<AtomOf<'mail'>['link']>): SQL {
  const wanted = link.text.toLowerCase();
  const host = sql`lower(substring(l.link->>'address' from ${HOST_PATTERN}))`;
  const leads =
    link.by === 'words'
      ? sql`strpos(lower(l.link->>'label'), ${wanted}) > 0`
      : sql`(${host} = ${wanted} or right(${host}, ${wanted.length + 1}) = ${`.${wanted}`})`;
  return sql`(select min(r.at) from readings r join programs g on g.workspace_id = s.workspace_id and g.hash = s.program_hash
    cross join lateral (select ${LINK} as link) l
    where r.workspace_id = s.workspace_id and r.send_id = s.id and r.kind = 'click' and not r.prefetched and r.link_number is not null and ${leads})`;
}

function mailSql({ what, times, since, link, did }: AtomOf<'mail'>, asked: Asked): SQL {
  const at = link
    ? clickSql(link)
    : { got: sql`s.due_at`, opened: sql`coalesce(s.opened_at, s.clicked_at)`, clicked: sql`s.clicked_at` }[what];
  const from = sinceSql(since, sql`m.at`, asked);
  const found = sql`from (select ${at} as at from sends s where s.workspace_id = p.workspace_id and s.person_id = p.id and s.visit_id is not null and s.status = 'sent') m
    where m.at <= ${asked.now} ${from ? sql`and ${from}` : sql``}`;
  return unless(did, times === 1 ? sql`exists (select 1 ${found})` : sql`((select count(*) ${found}) >= ${times})`);
}

function joinedSql({ list, how, within, is }: AtomOf<'joined'>, asked: Asked): SQL {
  const by = how
    ? sql`and ${how} = (select c.how from (${LAST_CONSENT(sql`m.workspace_id`, sql`m.person_id`, sql`m.list_id`)}) c)`
    : sql``;
  const lately = within ? sql`and m.at >= ${zoneInstant({ ...within, amount: -within.amount }, asked)}` : sql``;
  return unless(is, onList('p', list, sql`and m.at <= ${asked.now} ${by} ${lately}`));
}

/** How somebody stands to a sequence, over `visits v`: whoever is held out was never in it. */
const STANDS = {
  inside: sql`v.status = 'active'`,
  ended: sql`v.ending = 'end'`,
  goal: sql`v.ending = 'goal'`,
};

type AtomSql = {
  [K in AtomName]: (atom: AtomOf<K>, asked: Asked, answer: (rule: Condition, asked: Asked) => SQL) => SQL;
};

/** Each kind of question about people as SQL over `people p join workspaces w`: the same answer as its `holds` in core. */
export const atomSql: AtomSql = {
  date: dateSql,
  mail: mailSql,
  joined: joinedSql,
  sequence: ({ sequence, state, is }) =>
    unless(
      is,
      sql`exists (select 1 from visits v where v.workspace_id = p.workspace_id and v.person_id = p.id and v.sequence_id::text = ${sequence} and not v.held_out and ${STANDS[state]})`,
    ),
  attribute: ({ test }) => testSql(test, valueAt(sql`p.attributes`, test.field)),
  tag: ({ tag, has }) => (has ? sql`${tag} = any (p.tags)` : sql`not ${tag} = any (p.tags)`),
  list: ({ list, on }) => {
    const found = onList('p', list);
    return on ? found : sql`not ${found}`;
  },
  event: eventSql,
  email: () => {
    throw new AboutVisit();
  },
  segment: (atom, asked, answer) => {
    const rule = asked.segments.get(atom.segment);
    const inside = rule ? answer(rule, asked) : sql`false`;
    return atom.in ? inside : sql`not ${inside}`;
  },
  offer: offerSql,
  points: ({ op, value }) => sql`p.points ${sql.raw(op === 'over' ? '>' : '<')} ${value}::numeric`,
};
