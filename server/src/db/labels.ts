import { sql } from 'drizzle-orm';
import type { LabelledKind, LabelRow } from '@ascenso/contracts';
import { UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

/** Where each kind of thing that can have a label is. */
const TABLES: Readonly<Record<LabelledKind, string>> = {
  sequence: 'sequences',
  offer: 'offers',
  list: 'lists',
  template: 'templates',
};

/** All labels by name, each with what has it and is there. */
export const listLabels = (db: Executor, ws: string): Promise<LabelRow[]> => {
  const there = sql.join(
    Object.entries(TABLES).map(
      ([kind, table]) => sql`select ${kind} as kind, id from ${sql.identifier(table)} where workspace_id = ${ws}`,
    ),
    sql` union all `,
  );
  return rows<LabelRow>(
    db,
    sql`with there as (${there}), held as (
          select l.label_id, jsonb_agg(jsonb_build_object('kind', l.kind, 'id', l.thing) order by l.kind, l.thing) as things
          from labelled l join there t on t.kind = l.kind and t.id = l.thing where l.workspace_id = ${ws} group by 1)
        select l.id, l.name, coalesce(h.things, '[]') as things from labels l left join held h on h.label_id = l.id where l.workspace_id = ${ws} order by lower(l.name)`,
  );
};

/** A name that is there already is no second label. */
async function mustBeNew(db: Executor, ws: string, name: string, but: string | null): Promise<void> {
  const known = await firstRow<{ id: string }>(
    db,
    sql`select id from labels where workspace_id = ${ws} and lower(name) = lower(${name}) and id::text is distinct from ${but}`,
  );
  if (known) throw new UserError(409, 'exists', `There is already a label “${name}”.`, 'name');
}

/** Makes a label. Answers its id. */
export async function addLabel(db: Executor, ws: string, name: string): Promise<string> {
  await mustBeNew(db, ws, name, null);
  const id = newId();
  await db.execute(sql`insert into labels (workspace_id, id, name) values (${ws}, ${id}, ${name})`);
  return id;
}

/** Gives a label another name. False where there is none. */
export async function renameLabel(db: Executor, ws: string, id: string, name: string): Promise<boolean> {
  await mustBeNew(db, ws, name, id);
  const found = await rows(
    db,
    sql`update labels set name = ${name} where workspace_id = ${ws} and id::text = ${id} returning id`,
  );
  return found.length > 0;
}

/** Puts a label on a thing, or takes it off. False where the label or the thing is not there. */
export async function setLabel(
  db: Executor,
  ws: string,
  label: string,
  { kind, thing, on }: { kind: LabelledKind; thing: string; on: boolean },
): Promise<boolean> {
  const known = await firstRow(
    db,
    sql`select 1 from labels l join ${sql.identifier(TABLES[kind])} t on t.workspace_id = l.workspace_id and t.id = ${thing} where l.workspace_id = ${ws} and l.id::text = ${label}`,
  );
  if (!known) return false;
  if (on)
    await db.execute(
      sql`insert into labelled (workspace_id, label_id, kind, thing) values (${ws}, ${label}, ${kind}, ${thing}) on conflict do nothing`,
    );
  else
    await db.execute(
      sql`delete from labelled where workspace_id = ${ws} and label_id = ${label} and kind = ${kind} and thing = ${thing}`,
    );
  return true;
}
