import { sql } from 'drizzle-orm';
import type { TagRow } from '@ascenso/contracts';
import { atomsOf, everyCondition, spokenOf, walk, type Condition, type Sequence } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from './connect.ts';
import { emptyBin } from './emptying.ts';
import { firstRow, rows } from './rows.ts';
import { inForms, inImports, inSegments, setsOf, usesIn, type NamedUse, type Spoken } from './uses.ts';

/** Tags that one version or draft of a sequence speaks of. */
function spoken(doc: Sequence): Spoken[] {
  const asked = spokenOf(everyCondition(doc).flatMap(atomsOf)).tags.map((field) => ({ field, where: 'a condition' }));
  const starting = doc.triggers.flatMap((t) => (t.kind === 'tag' ? [{ field: t.tag, where: 'how it starts' }] : []));
  const put = walk(doc).flatMap(({ step }) => {
    if (step.kind === 'email' && step.thenTag) return [{ field: step.thenTag, where: step.name }];
    return step.kind === 'action' && (step.action.type === 'add-tag' || step.action.type === 'remove-tag')
      ? [{ field: step.action.tag, where: 'an action' }]
      : [];
  });
  return [...asked, ...starting, ...put];
}

const inRule = (rule: Condition) => [...spokenOf(atomsOf(rule)).tags];

const usesOfTags = async (db: Executor, ws: string): Promise<NamedUse[]> => [
  ...(await usesIn(db, ws, spoken)).map((u) => ({
    key: u.field,
    name: u.sequence.name,
    where: u.where,
    path: `/sequences/${u.sequence.id}`,
    live: u.live,
  })),
  ...(await inSegments(db, ws, inRule)),
  ...(await inForms(db, ws, (f) => setsOf(f).flatMap((s) => (s.kind === 'tag' ? [s.tag] : [])))),
  ...(await inImports(db, ws, (plan) => plan.tags)),
];

/** All tags that somebody has or something speaks of, with how many people have each. */
export async function listTags(db: Executor, ws: string): Promise<TagRow[]> {
  const held = await rows<{ tag: string; people: number }>(
    db,
    sql`select t as tag, count(*)::int as people from people p, unnest(p.tags) t where p.workspace_id = ${ws} group by 1`,
  );
  const uses = await usesOfTags(db, ws);
  const names = [...new Set([...held.map((h) => h.tag), ...uses.map((u) => u.key)])]
    .filter(Boolean)
    .sort((a, b) => a.localeCompare(b, 'en'));
  return names.map((tag) => ({
    tag,
    people: held.find((h) => h.tag === tag)?.people ?? 0,
    uses: uses.filter((u) => u.key === tag).map(({ key: _, ...use }) => use),
  }));
}

export const usesOfTag = async (db: Executor, ws: string, tag: string) =>
  (await usesOfTags(db, ws)).filter((u) => u.key === tag);

/**
 * Takes a tag off everybody, or gives them another one for it; where they have that one too, the two become one. Nothing
 * starts by it. Answers the id under which it can be taken back for a week, undefined where nobody has it.
 */
export async function replaceTag(tx: Tx, ws: string, tag: string, by: string | null): Promise<string | undefined> {
  await emptyBin(tx);
  const undo = newId();
  const kept = await firstRow(
    tx,
    sql`with had as materialized (select id, ${by}::text = any (tags) as other from people where workspace_id = ${ws} and tags @> array[${tag}::text] order by id for update),
          done as (
            update people p set tags = (select coalesce(array_agg(distinct t), '{}') from unnest(array_remove(p.tags, ${tag}::text) || ${by === null ? sql`'{}'::text[]` : sql`array[${by}::text]`}) t)
            from had where p.workspace_id = ${ws} and p.id = had.id)
        insert into bin (workspace_id, id, kind, row, binned_at)
        select ${ws}, ${undo}, 'tag', jsonb_build_object('tag', ${tag}::text, 'by', ${by}::text, 'people', jsonb_agg(id), 'both', coalesce(jsonb_agg(id) filter (where other), '[]')), now()
        from had having count(*) > 0 returning 1`,
  );
  return kept ? undo : undefined;
}

/** Who had a tag that was taken off everybody, and which one they got for it. */
export interface GivenTag {
  tag: string;
  by: string | null;
  people: string[];
  /** Those of them who had the other one too. */
  both: string[];
}

/** Takes that back: whoever had the tag has it again, and the other one only if they had it before. */
export async function giveTagBack(db: Executor, ws: string, row: GivenTag): Promise<void> {
  await db.execute(sql`
    update people p set tags = (select array_agg(distinct t) from unnest(
      (case when p.id = any (${sql.param(row.both)}::uuid[]) then p.tags else array_remove(p.tags, ${row.by}::text) end) || array[${row.tag}::text]) t)
    where p.workspace_id = ${ws} and p.id = any (${sql.param(row.people)}::uuid[])`);
}
