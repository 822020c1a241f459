import { sql } from 'drizzle-orm';
import {
  surroundingParts,
  type AroundParts,
  type AttributeRow,
  type EventKindRow,
  type FileRow,
  type ListRow,
  type Named,
  type OfferRow,
  type SegmentRow,
  type SenderRow,
  type SequenceName,
  type SharedRow,
  type SurroundingPart,
  type Surroundings,
} from '@ascenso/contracts';
import {
  emailsOfEvent,
  emailSteps,
  momentsOf,
  plainStyle,
  sharedIn,
  sharedSign,
  startsOf,
  type HouseStyle,
  type Materials,
  type Sequence,
} from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import { AS_OF_NOW, countedNow, type Kept } from '../app/kept.ts';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

type Draft = Pick<SequenceName, 'id' | 'name' | 'status'> & { draft: Sequence };

const draftsOf = (db: Executor, ws: string) =>
  rows<Draft>(
    db,
    sql`select id, name, status, draft from sequences where workspace_id = ${ws} and status <> 'archived' and listed order by name`,
  );

async function sharedBlocks(db: Executor, ws: string): Promise<SharedRow[]> {
  const drafts = await draftsOf(db, ws);
  const live = await rows<{ sequence_id: string; shared: Materials['shared'] }>(
    db,
    sql`select v.sequence_id, v.made->'shared' as shared from versions v join sequences s on s.workspace_id = v.workspace_id and s.id = v.sequence_id and s.live_version = v.number
        where v.workspace_id = ${ws} and v.made->'shared' <> '{}'`,
  );
  const shared = await rows<Omit<SharedRow, 'usedIn'>>(
    db,
    sql`select id, name, blocks, updated_at as "updatedAt" from shared_blocks where workspace_id = ${ws} order by name`,
  );
  const usedIn = ({ id, blocks }: (typeof shared)[number]): SharedRow['usedIn'] =>
    drafts.flatMap((s) => {
      const sign = live.find((v) => v.sequence_id === s.id)?.shared[id];
      const isLive = sign !== undefined;
      const behind = isLive && sign !== sharedSign(blocks);
      return isLive || sharedIn(emailSteps(s.draft).map((step) => step.email)).has(id)
        ? [{ id: s.id, name: s.name, live: isLive, behind }]
        : [];
    });
  return shared.map((s) => ({ ...s, usedIn: usedIn(s) }));
}

const sequenceNames = async (db: Executor, ws: string): Promise<SequenceName[]> =>
  (await draftsOf(db, ws)).map(({ draft, ...s }) => ({
    ...s,
    starts: startsOf(draft),
    emails: emailSteps(draft).length,
    live: s.status === 'live',
    triggers: draft.triggers,
    moments: momentsOf(draft),
    ofEvent: emailsOfEvent(draft).map((step) => step.name),
  }));

/** A column of the workspace's own row. */
const own = async <T>(db: Executor, ws: string, column: string): Promise<T | null> =>
  (await firstRow<{ value: T | null }>(db, sql`select ${sql.raw(column)} as value from workspaces where id = ${ws}`))
    ?.value ?? null;

/** Names of all that a sentence can speak of. */
export async function loadNamed(db: Executor, ws: string): Promise<Named> {
  const found = await rows<{ what: keyof Named; id: string; name: string }>(
    db,
    sql`select 'lists' as what, id::text, name from lists where workspace_id = ${ws}
        union all select 'kinds', name, label from event_kinds where workspace_id = ${ws}
        union all select 'files', id::text, name from files where workspace_id = ${ws}
        union all select 'segments', id::text, name from segments where workspace_id = ${ws}
        union all select 'offers', id::text, doc->>'name' from offers where workspace_id = ${ws}
        union all select 'forms', id::text, doc->>'name' from forms where workspace_id = ${ws}
        union all select 'sequences', id::text, name from sequences where workspace_id = ${ws} and template_id is null
        union all select 'emails', s.id || '/' || (e->>'id'), e->>'name'
          from sequences s, jsonb_path_query(s.draft, '$.steps.** ? (@.kind == "email" && exists (@.email))') e where s.workspace_id = ${ws} and s.listed`,
  );
  const of = (what: keyof Named) => found.filter((f) => f.what === what);
  return {
    lists: of('lists'),
    files: of('files'),
    segments: of('segments'),
    sequences: of('sequences'),
    offers: of('offers'),
    emails: of('emails'),
    forms: of('forms'),
    kinds: of('kinds').map(({ id, name }) => ({ name: id, label: name })),
  };
}

type Loader<P extends SurroundingPart> = (db: Executor, ws: string, kept: Kept) => Promise<AroundParts[P]>;

/** How many are on each list, by its id. */
async function confirmedOn(db: Executor, ws: string): Promise<Map<string, number>> {
  const found = await rows<{ id: string; n: number }>(
    db,
    sql`select list_id as id, count(*) as n from memberships where workspace_id = ${ws} and state = 'confirmed' group by 1`,
  );
  return new Map(found.map(({ id, n }) => [id, n]));
}

/** How many people have fetched each file, by its id. */
async function downloadsOf(db: Executor, ws: string): Promise<Map<string, number>> {
  const found = await rows<{ id: string; n: number }>(
    db,
    sql`select payload->>'file' as id, count(distinct person_id) as n from events where workspace_id = ${ws} and name = 'file.downloaded' group by 1`,
  );
  return new Map(found.map(({ id, n }) => [id, n]));
}

async function tagsIn(db: Executor, ws: string): Promise<string[]> {
  const found = await rows<{ tag: string }>(
    db,
    sql`select distinct unnest(tags) as tag from people where workspace_id = ${ws} order by 1`,
  );
  return found.map((t) => t.tag);
}

/** How each part is read. */
const loaders: { [P in SurroundingPart]: Loader<P> } = {
  named: loadNamed,
  style: async (db, ws) => ({ ...plainStyle, ...(await own<HouseStyle>(db, ws, 'style')) }),
  dailyCap: (db, ws) => own<number>(db, ws, 'daily_cap'),
  graceMinutes: async (db, ws) => (await own<number>(db, ws, 'grace_minutes')) ?? 0,
  words: async (db, ws) => (await own<string[]>(db, ws, 'words')) ?? [],
  currency: async (db, ws) => (await own<string>(db, ws, 'currency')) ?? 'EUR',
  now: (db) => businessNow(db),
  lists: async (db, ws, kept) => {
    const found = await rows<Omit<ListRow, 'confirmed'>>(
      db,
      sql`select id, name from lists where workspace_id = ${ws} order by name`,
    );
    const confirmed = await kept('on lists', () => confirmedOn(db, ws), AS_OF_NOW);
    return found.map((l) => ({ ...l, confirmed: confirmed.get(l.id) ?? 0 }));
  },
  kinds: (db, ws) =>
    rows<EventKindRow>(
      db,
      sql`select name, label, fields, sample, learned, mapping from event_kinds where workspace_id = ${ws} order by label`,
    ),
  attributes: (db, ws) =>
    rows<AttributeRow>(
      db,
      sql`select key, label, type, options from attributes where workspace_id = ${ws} order by position, key`,
    ),
  senders: (db, ws) =>
    rows<SenderRow>(
      db,
      sql`select s.id, s.name, s.email, s.is_default as "isDefault", s.untouched, s.fields,
            case when u.id is not null then jsonb_build_object('id', u.id, 'name', u.name) end as user
          from senders s left join users u on u.id = s.user_id
          where s.workspace_id = ${ws} order by s.is_default desc, s.name`,
    ),
  files: async (db, ws, kept) => {
    const found = await rows<Omit<FileRow, 'downloads'>>(
      db,
      sql`select id, name, mime, size, width, height, folder, alt, keywords from files where workspace_id = ${ws} order by created_at desc, id desc`,
    );
    const downloads = await kept('downloads', () => downloadsOf(db, ws), AS_OF_NOW);
    return found.map((f) => ({ ...f, downloads: downloads.get(f.id) ?? 0 }));
  },
  tags: (db, ws, kept) => kept('tags', () => tagsIn(db, ws), AS_OF_NOW),
  segments: (db, ws) =>
    rows<SegmentRow>(db, sql`select id, name, rule from segments where workspace_id = ${ws} order by name`),
  forms: (db, ws) =>
    rows<Surroundings['forms'][number]>(
      db,
      sql`select id, doc->>'name' as name from forms where workspace_id = ${ws} order by 2`,
    ),
  sequences: sequenceNames,
  shared: sharedBlocks,
  offers: (db, ws) =>
    rows<OfferRow>(
      db,
      sql`select o.id, o.doc->>'name' as name, o.doc as offer,
            case when o.doc->'codes'->>'kind' = 'imported' then (select count(*) from offer_codes c where c.workspace_id = o.workspace_id and c.offer_id = o.id and not c.made and c.person_id is null) end as "left",
            case when o.doc->'codes'->>'kind' <> 'imported' then 0 else (select count(distinct v.person_id) from sequences s join versions n on n.workspace_id = s.workspace_id and n.sequence_id = s.id and n.number = s.live_version
               join visits v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active'
             where s.workspace_id = o.workspace_id and s.status in ('live', 'paused') and n.doc::text like '%"offer": "' || o.id || '"%'
               and not exists (select 1 from offer_grants g where g.workspace_id = o.workspace_id and g.person_id = v.person_id and g.offer_id = o.id)) end as waiting
          from offers o where o.workspace_id = ${ws} order by 2`,
    ),
};

/** What drafts refer to, in the parts that are asked for: the style, lists, kinds of events, attributes, senders, files … */
export async function loadAround<P extends SurroundingPart>(
  db: Executor,
  ws: string,
  parts: readonly P[],
  kept: Kept = countedNow,
): Promise<Pick<AroundParts, P>> {
  const found: Partial<AroundParts> = {};
  const load = async <K extends SurroundingPart>(part: K) => {
    found[part] = await loaders[part](db, ws, kept);
  };
  // One after the other: a transaction has one connection.
  for (const part of new Set(parts)) await load(part);
  return found as Pick<AroundParts, P>;
}

/** All that drafts refer to. */
export const loadSurroundings = (db: Executor, ws: string): Promise<Surroundings> =>
  loadAround(db, ws, surroundingParts);
