import { sql, type SQL } from 'drizzle-orm';
import { DAY, fromWall, isZone, zoneOf, targetOfLink, type LinkRef, type Zone } from '@ascenso/core';
import type {
  EffectAnswer,
  Figure,
  FigureAnswer,
  FigurePerson,
  HoursAnswer,
  LinkNumbers,
  ReadOn,
  ReadOnAnswer,
} from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { fileName } from './files.ts';
import { firstRow, rows } from './rows.ts';
import { filledSend } from './sends.ts';
import type { Days } from './tallies.ts';

// The people behind a figure: asked of the rows that its counter counts.

/** People shown at once. */
const SHOWN = 100;

/** The calendar of a workspace. One whose zone is not known is told in UTC, as its counters are. */
async function calendarOf(db: Executor, ws: string): Promise<Zone> {
  const w = await firstRow<{ zone: string }>(db, sql`select zone from workspaces where id = ${ws}`);
  return zoneOf(w && isZone(w.zone) ? w.zone : 'UTC');
}

/** Passages that began on some days. */
const begunOn = (zone: Zone, days: Days | null): SQL =>
  days
    ? sql`and v.entered_at >= ${fromWall(zone, days.from * DAY)} and v.entered_at < ${fromWall(zone, (days.to + 1) * DAY)}`
    : sql``;

/** What is counted as it stands now, whenever the passages began. */
const NOW: ReadonlySet<Figure['what']> = new Set(['inside', 'held', 'awaits', 'queued', 'here']);

const NO_LINK = sql`null::uuid as send_id, null::int as link_number, null::int as link_repeat, null::int as link_item`;
const NO_MONEY = sql`null::bigint as amount, null::text as currency`;

/** Emails that a figure counts, and when it happened to them. */
const emailsWhere: Partial<Record<Figure['what'], [which: SQL, at: SQL]>> = {
  queued: [sql`s.status in ('queued', 'leased')`, sql`s.due_at`],
  sent: [sql`s.status in ('sent', 'bounced')`, sql`coalesce(s.sent_at, s.due_at)`],
  delivered: [sql`s.status = 'sent'`, sql`s.sent_at`],
  opened: [sql`s.opened_at is not null`, sql`s.opened_at`],
  clicked: [sql`s.clicked_at is not null`, sql`s.clicked_at`],
  left: [sql`s.left_at is not null`, sql`s.left_at`],
  bounced: [sql`s.status = 'bounced'`, sql`coalesce(s.returned_at, s.due_at)`],
  complained: [sql`s.complained_at is not null`, sql`s.complained_at`],
  failed: [sql`s.status = 'failed'`, sql`s.due_at`],
};
const passagesWhere: Partial<Record<Figure['what'], [which: SQL, at: SQL]>> = {
  joined: [sql`not v.held_out`, sql`v.entered_at`],
  'held-out': [sql`v.held_out`, sql`v.entered_at`],
  inside: [sql`v.status = 'active'`, sql`v.arrived_at`],
  held: [sql`v.status = 'active' and v.held`, sql`v.arrived_at`],
  awaits: [sql`v.status = 'active' and v.awaits is not null`, sql`v.arrived_at`],
  ended: [sql`v.status = 'done' and not v.held_out`, sql`coalesce(v.ended_at, v.entered_at)`],
  goal: [sql`v.status = 'done' and v.ending = 'goal'`, sql`coalesce(v.ended_at, v.entered_at)`],
};

/** Rows (person_id, at, the link, amount, currency) of what a figure counts. */
function rowsBehind(ws: string, f: Figure, zone: Zone): SQL {
  if (f.what === 'here')
    return sql`${rowsBehind(ws, { ...f, what: 'inside' }, zone)} union all ${rowsBehind(ws, { ...f, what: 'queued' }, zone)}`;
  const ofSteps = (step: SQL) =>
    f.steps.length === 0 ? sql`` : sql`and ${step} = any (${sql.param(f.steps)}::text[])`;
  const begun = begunOn(zone, NOW.has(f.what) ? null : f.days);
  const passage = passagesWhere[f.what];
  if (passage)
    return sql`select v.person_id, ${passage[1]} as at, ${NO_LINK}, ${NO_MONEY} from visits v
               where v.workspace_id = ${ws} and v.sequence_id = ${f.sequence} and ${passage[0]} ${NOW.has(f.what) ? ofSteps(sql`v.step`) : sql``} ${begun}`;
  if (f.what === 'ordered')
    return sql`select o.person_id, o.at, ${NO_LINK}, o.amount, o.currency from orders o join visits v on v.workspace_id = o.workspace_id and v.id = o.visit_id
               where o.workspace_id = ${ws} and o.sequence_id = ${f.sequence} ${ofSteps(sql`o.step`)} ${begun}`;
  if (f.what === 'reason') {
    const [code = '', detail = ''] = f.why.split(' ', 2);
    return sql`select v.person_id, r.at, ${NO_LINK}, ${NO_MONEY} from visits v
               join reasons r on r.workspace_id = v.workspace_id and r.person_id = v.person_id and r.visit_id = v.id
               where v.workspace_id = ${ws} and v.sequence_id = ${f.sequence} and r.code = ${code} ${ofSteps(sql`coalesce(r.step, '')`)}
                 and coalesce(r.data->>'arm', r.data->>'why', '') = ${detail} ${begun}`;
  }
  const [which, at] = emailsWhere[f.what] ?? [sql`false`, sql`0`];
  const from = sql`from sends s join visits v on v.workspace_id = s.workspace_id and v.id = s.visit_id`;
  const where = sql`where s.workspace_id = ${ws} and s.sequence_id = ${f.sequence} ${ofSteps(sql`s.step`)} and ${which} ${begun}`;
  if (f.what !== 'clicked') return sql`select s.person_id, ${at} as at, ${NO_LINK}, ${NO_MONEY} ${from} ${where}`;
  const { link } = f;
  return sql`select s.person_id, c.at, s.id as send_id, c.link_number, c.link_repeat, c.link_item, ${NO_MONEY} ${from}
             join lateral (select c.at, c.link_number, c.link_repeat, c.link_item from readings c where c.workspace_id = s.workspace_id and c.send_id = s.id and c.kind = 'click' and not c.prefetched
               ${link === null ? sql`` : sql`and c.link_number = ${link.number} and c.link_repeat is not distinct from ${link.repeat}::int`} order by c.at, c.id limit 1) c on true ${where}`;
}

/** Ids of everybody behind a figure. */
export async function peopleBehind(db: Executor, ws: string, f: Figure): Promise<string[]> {
  const found = await rows<{ id: string }>(
    db,
    sql`select distinct person_id as id from (${rowsBehind(ws, f, await calendarOf(db, ws))}) b`,
  );
  return found.map((r) => r.id);
}

/** The people behind a figure, the latest first, each with what they clicked or ordered. */
export async function figurePeople(db: Executor, ws: string, f: Figure): Promise<FigureAnswer> {
  const behind = rowsBehind(ws, f, await calendarOf(db, ws));
  const found = await rows<
    Omit<FigurePerson, 'link'> & {
      send: string | null;
      number: number | null;
      repeat: number | null;
      item: number | null;
      total: number;
    }
  >(
    db,
    sql`select p.id, p.email, trim(coalesce(p.attributes->>'first_name', '') || ' ' || coalesce(p.attributes->>'last_name', '')) as name,
          b.at, b.send_id as send, b.link_number as number, b.link_repeat as repeat, b.link_item as item, b.amount, b.currency, count(*) over () as total
        from (${behind}) b join people p on p.workspace_id = ${ws} and p.id = b.person_id order by b.at desc, p.id limit ${SHOWN}`,
  );
  const people = await Promise.all(
    found.map(async ({ send, number, repeat, item, total: _, ...p }) => {
      const link = send && number !== null ? await linkOf(db, ws, send, { number, repeat, item }) : undefined;
      return { ...p, link: link?.target ?? null };
    }),
  );
  return { people, total: found[0]?.total ?? 0 };
}

/** Where a link leads as one reads it: a file of ours by its name. */
async function placeOf(db: Executor, ws: string, target: string): Promise<string> {
  return target.startsWith('file:') ? ((await fileName(db, ws, target.slice('file:'.length))) ?? 'a file') : target;
}

/** A link of an email as it was sent: its words, and where it led. */
async function linkOf(
  db: Executor,
  ws: string,
  send: string,
  ref: LinkRef,
): Promise<{ words: string; target: string } | undefined> {
  const sent = await filledSend(db, { workspaceId: ws, sendId: send });
  const link = sent && targetOfLink(sent.program, sent.values, ref);
  return link && { words: link.link.label, target: await placeOf(db, ws, link.target) };
}

/** Links of one email with how often and by how many they were clicked, the most clicked first. */
export async function linkNumbers(
  db: Executor,
  ws: string,
  { sequence, step, days }: Pick<Figure, 'sequence' | 'days'> & { step: string },
): Promise<LinkNumbers[]> {
  const zone = await calendarOf(db, ws);
  const found = await rows<{
    n: number;
    repeat: number | null;
    item: number | null;
    clicks: number;
    people: number;
    send: string;
  }>(
    db,
    sql`select r.link_number as n, r.link_repeat as repeat, min(r.link_item) as item, count(*) as clicks, count(distinct s.person_id) as people, max(s.id::text) as send
        from sends s join visits v on v.workspace_id = s.workspace_id and v.id = s.visit_id
        join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id and r.kind = 'click' and not r.prefetched and r.link_number is not null
        where s.workspace_id = ${ws} and s.sequence_id = ${sequence} and s.step = ${step} and s.clicked_at is not null ${begunOn(zone, days)}
        group by 1, 2 order by clicks desc, n, repeat`,
  );
  return Promise.all(
    found.map(async ({ n, repeat, item, clicks, people, send }) => {
      const link = await linkOf(db, ws, send, { number: n, repeat, item });
      return { number: n, repeat, words: link?.words ?? '', target: link?.target ?? '', clicks, people };
    }),
  );
}

/** An email of a step to show its clicks on: of the latest version, one that was clicked rather than one that was not. */
export async function sampleOfStep(db: Executor, ws: string, sequence: string, step: string): Promise<string | null> {
  const found = await firstRow<{ id: string }>(
    db,
    sql`select id from sends where workspace_id = ${ws} and sequence_id = ${sequence} and step = ${step} and visit_id is not null and status = 'sent' and "values" is not null
        order by version desc, clicked_at is null, sent_at desc limit 1`,
  );
  return found?.id ?? null;
}

/** On what and with what the emails of a sequence were opened and clicked, the most first. */
export async function readOnOf(
  db: Executor,
  ws: string,
  { sequence, days }: Pick<Figure, 'sequence' | 'days'>,
): Promise<ReadOnAnswer> {
  const begun = begunOn(await calendarOf(db, ws), days);
  const found = await rows<ReadOn & { by: 'device' | 'program' }>(
    db,
    sql`select case when grouping(r.device) = 0 then 'device' else 'program' end as "by", coalesce(r.device, r.program) as name,
          count(distinct s.id) filter (where r.kind = 'open') as opened, count(distinct s.id) filter (where r.kind = 'click') as clicked
        from sends s join visits v on v.workspace_id = s.workspace_id and v.id = s.visit_id
        join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id and not r.prefetched
        where s.workspace_id = ${ws} and s.sequence_id = ${sequence} and (s.opened_at is not null or s.clicked_at is not null) ${begun}
        group by grouping sets ((r.device), (r.program)) order by count(distinct s.id) desc, 2`,
  );
  const of = (by: 'device' | 'program') => found.filter((f) => f.by === by).map(({ by: _, ...one }) => one);
  return { devices: of('device'), programs: of('program') };
}

/** When emails of a sequence were first opened and clicked, by weekday and hour where their readers are. */
export async function hoursOf(
  db: Executor,
  ws: string,
  { sequence, days }: Pick<Figure, 'sequence' | 'days'>,
): Promise<HoursAnswer['hours']> {
  const begun = begunOn(await calendarOf(db, ws), days);
  const found = await rows<{ weekday: number; hour: number; what: 'opened' | 'clicked'; n: number }>(
    db,
    sql`select extract(isodow from x.at)::int as weekday, extract(hour from x.at)::int as hour, x.what, count(*) as n
        from sends s join visits v on v.workspace_id = s.workspace_id and v.id = s.visit_id
        join people p on p.workspace_id = s.workspace_id and p.id = s.person_id
        left join (select name from pg_timezone_names) z on z.name = p.zone
        cross join (select tally_zone(${ws}) as home offset 0) h
        cross join lateral (values ('opened', to_timestamp(s.opened_at / 1000.0) at time zone coalesce(z.name, h.home)),
          ('clicked', to_timestamp(s.clicked_at / 1000.0) at time zone coalesce(z.name, h.home))) x(what, at)
        where s.workspace_id = ${ws} and s.sequence_id = ${sequence} and s.opened_at is not null and x.at is not null ${begun} group by 1, 2, 3`,
  );
  const out = new Map<string, HoursAnswer['hours'][number]>();
  for (const { weekday, hour, what, n } of found) {
    const key = `${weekday} ${hour}`;
    out.set(key, { ...(out.get(key) ?? { weekday, hour, opened: 0, clicked: 0 }), [what]: n });
  }
  return [...out.values()].sort((a, b) => a.weekday - b.weekday || a.hour - b.hour);
}

/** Days after joining within which orders are held against each other: what comes later has had other reasons. */
const EFFECT_DAYS = 30;

/**
 * What whoever went through a sequence ordered within some days of joining, beside whoever was held out: by chance, so that
 * the difference is the sequence's. All their orders count, whatever brought them.
 */
export async function effectOf(
  db: Executor,
  ws: string,
  sequence: string,
  currency: string,
  now: number,
): Promise<EffectAnswer> {
  const span = EFFECT_DAYS * DAY;
  // Whoever came twice is one person, from the first time on.
  const first = sql`select person_id, min(entered_at) as entered_at, bool_and(held_out) as out from visits where workspace_id = ${ws} and sequence_id = ${sequence} group by 1`;
  const groups = await rows<{
    out: boolean;
    people: number;
    orders: number;
    money: number;
    squares: number;
    others: number;
  }>(
    db,
    sql`select out, count(*) as people, coalesce(sum(orders), 0)::bigint as orders, coalesce(sum(money), 0)::bigint as money, coalesce(sum(money::float8 * money), 0) as squares, coalesce(sum(others), 0)::bigint as others
        from (${first}) f cross join lateral (
          select count(*) filter (where o.currency = ${currency}) as orders, coalesce(sum(o.amount) filter (where o.currency = ${currency}), 0) as money, count(*) filter (where o.currency <> ${currency}) as others
          from orders o where o.workspace_id = ${ws} and o.person_id = f.person_id and o.at >= f.entered_at and o.at < f.entered_at + ${span}) o
        where f.entered_at <= ${now - span} group by 1`,
  );
  const late = await firstRow<{ n: number }>(
    db,
    sql`select count(*) as n from (${first}) f where f.entered_at > ${now - span}`,
  );
  const groupOf = (out: boolean) => {
    const g = groups.find((r) => r.out === out);
    return { people: g?.people ?? 0, orders: g?.orders ?? 0, money: g?.money ?? 0, squares: g?.squares ?? 0 };
  };
  return {
    currency,
    days: EFFECT_DAYS,
    waiting: late?.n ?? 0,
    groups: [
      { name: 'in', ...groupOf(false) },
      { name: 'out', ...groupOf(true) },
    ],
    others: groups.reduce((n, g) => n + g.others, 0),
  };
}
