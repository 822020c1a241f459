import { sql } from 'drizzle-orm';
import type { AttributeRow, EventKindRow, FileRow, ListRow, SenderRow, Surroundings } from '@ascenso/contracts';
import type { HouseStyle } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

/** All that drafts refer to: style, lists, kinds of events, attributes, senders, files, tags. */
export async function loadSurroundings(db: Executor, ws: string): Promise<Surroundings> {
  const style = await firstRow<{ style: HouseStyle }>(db, sql`select style from workspaces where id = ${ws}`);
  const lists = await rows<ListRow>(
    db,
    sql`select l.id, l.name, (select count(*) from memberships m where m.workspace_id = l.workspace_id and m.list_id = l.id and m.state = 'confirmed') as confirmed
        from lists l where l.workspace_id = ${ws} order by l.name`,
  );
  const kinds = await rows<EventKindRow>(
    db,
    sql`select name, label, fields, sample, learned from event_kinds where workspace_id = ${ws} order by label`,
  );
  const attributes = await rows<AttributeRow>(
    db,
    sql`select key, label, type from attributes where workspace_id = ${ws} order by position, key`,
  );
  const senders = await rows<SenderRow>(
    db,
    sql`select id, name, email, is_default as "isDefault", untouched, fields from senders where workspace_id = ${ws} order by is_default desc, name`,
  );
  const files = await rows<FileRow>(
    db,
    sql`select f.id, f.name, f.mime, f.size, f.width, f.height,
          (select count(distinct e.person_id) from events e where e.workspace_id = f.workspace_id and e.name = 'file.downloaded' and e.payload->>'file' = f.id::text) as downloads
        from files f where f.workspace_id = ${ws} order by f.created_at desc, f.id desc`,
  );
  const tags = await rows<{ tag: string }>(
    db,
    sql`select distinct unnest(tags) as tag from people where workspace_id = ${ws} order by 1`,
  );
  return { style: style?.style as HouseStyle, lists, kinds, attributes, senders, files, tags: tags.map((t) => t.tag) };
}
