import { and, eq, or, sql } from 'drizzle-orm';
import type { ListDetails } from '@ascenso/contracts';
import { atomsOf, everyCondition, spokenOf, walk, type Sequence } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';
import { lists } from './schema/index.ts';
import { inForms, inImports, inSegments, setsOf, usesIn, type NamedUse, type Spoken } from './uses.ts';

/** Makes a list. A name that is taken is refused by the index. */
export async function addList(db: Executor, ws: string, name: string): Promise<string> {
  const id = newId();
  await db.insert(lists).values({ workspaceId: ws, id, name });
  return id;
}

export async function hasList(db: Executor, ws: string, id: string): Promise<boolean> {
  const [known] = await db
    .select({ id: lists.id })
    .from(lists)
    .where(and(eq(lists.workspaceId, ws), eq(lists.id, id)));
  return known !== undefined;
}

/** Id of the list that a sender of people means: by its name or its id. */
export async function listCalled(db: Executor, ws: string, called: string): Promise<string | undefined> {
  const [known] = await db
    .select({ id: lists.id })
    .from(lists)
    .where(and(eq(lists.workspaceId, ws), or(eq(lists.name, called), sql`${lists.id}::text = ${called}`)));
  return known?.id;
}

/** Lists that one version or draft of a sequence speaks of. */
function spoken(doc: Sequence): Spoken[] {
  const asked = spokenOf(everyCondition(doc).flatMap(atomsOf)).lists.map((field) => ({ field, where: 'a condition' }));
  const starting = doc.triggers.flatMap((t) => (t.kind === 'list' ? [{ field: t.list, where: 'how it starts' }] : []));
  const put = walk(doc).flatMap(({ step }) =>
    step.kind === 'action' && 'list' in step.action ? [{ field: step.action.list, where: 'an action' }] : [],
  );
  return [...asked, ...starting, ...put, ...(doc.list ? [{ field: doc.list, where: 'whom it mails' }] : [])];
}

const usesOfLists = async (db: Executor, ws: string): Promise<NamedUse[]> => [
  ...(await usesIn(db, ws, spoken)).map((u) => ({
    key: u.field,
    name: u.sequence.name,
    where: u.where,
    path: `/sequences/${u.sequence.id}`,
    live: u.live,
  })),
  ...(await inSegments(db, ws, (rule) => [...spokenOf(atomsOf(rule)).lists])),
  ...(await inForms(db, ws, (f) => [...f.lists, ...setsOf(f).flatMap((s) => (s.kind === 'list' ? [s.list] : []))])),
  ...(await inImports(db, ws, (plan) => plan.lists)),
];

export const usesOfList = async (db: Executor, ws: string, id: string) =>
  (await usesOfLists(db, ws)).filter((u) => u.key === id);

/** All lists with who is on them, what their readers see, and where each is used. */
export async function listsInFull(db: Executor, ws: string): Promise<ListDetails[]> {
  const found = await rows<Omit<ListDetails, 'uses'>>(
    db,
    sql`select l.id, l.name, l.public_name as "publicName", l.told, (count(*) filter (where m.state = 'confirmed'))::int as confirmed,
          (count(*) filter (where m.state = 'pending'))::int as pending, (count(*) filter (where m.state = 'left'))::int as left
        from lists l left join memberships m on m.workspace_id = l.workspace_id and m.list_id = l.id where l.workspace_id = ${ws} group by l.workspace_id, l.id order by l.name`,
  );
  const uses = await usesOfLists(db, ws);
  return found.map((l) => ({ ...l, uses: uses.filter((u) => u.key === l.id).map(({ key: _, ...use }) => use) }));
}

/** Changes what a list is called, here and by its readers. False where there is none. */
export async function changeList(
  db: Executor,
  ws: string,
  id: string,
  change: Partial<Pick<ListDetails, 'name' | 'publicName' | 'told'>>,
): Promise<boolean> {
  const changed = await db
    .update(lists)
    .set(change)
    .where(and(eq(lists.workspaceId, ws), eq(lists.id, id)))
    .returning({ id: lists.id });
  return changed.length > 0;
}
