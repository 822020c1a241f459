import { sql } from 'drizzle-orm';
import type { AttributeDetails, AttributeRow, AttributeUse } from '@ascenso/contracts';
import { atomsOf, everyCondition, firstOf, spokenOf, walk, type Sequence, type ValueKind } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';
import { inForms, inImports, inSegments, setsOf, usesIn, writtenIn, type NamedUse, type Spoken } from './uses.ts';

/** Attributes that one version or draft of a sequence speaks of. */
function spoken(doc: Sequence): Spoken[] {
  const { attributes } = spokenOf(everyCondition(doc).flatMap(atomsOf));
  const asked = attributes.map((field) => ({ field, where: 'a condition' }));
  const starting = doc.triggers.flatMap((t) =>
    t.kind === 'attribute' ? [firstOf(t.test.field)] : t.kind === 'date' ? [t.attribute] : [],
  );
  const set = walk(doc).flatMap(({ step }) =>
    step.kind === 'action' && step.action.type === 'set-attribute' ? [step.action.key] : [],
  );
  return [
    ...writtenIn(doc, 'subscriber'),
    ...asked,
    ...starting.map((field) => ({ field, where: 'how it starts' })),
    ...set.map((field) => ({ field, where: 'an action' })),
  ];
}

/** Where attributes are used, by their key: in sequences, segments, shared blocks and templates. */
async function usesOfAttributes(db: Executor, ws: string): Promise<NamedUse[]> {
  const inSequences = (await usesIn(db, ws, spoken)).map((u) => ({
    key: u.field,
    name: u.sequence.name,
    where: u.where,
    path: `/sequences/${u.sequence.id}`,
    live: u.live,
  }));
  const kept = await rows<{ name: string; what: string; text: string }>(
    db,
    sql`select name, 'a shared block' as what, blocks::text as text from shared_blocks where workspace_id = ${ws}
        union all select name, 'a template', email::text from templates where workspace_id = ${ws}`,
  );
  const inLibrary = kept.flatMap(({ name, what, text }) =>
    [...text.matchAll(/\bsubscriber\.([a-z_][a-z0-9_]*)/gi)].map((m) => ({
      key: m[1] ?? '',
      name,
      where: what,
      path: '/library',
      live: false,
    })),
  );
  // Asked of everybody whom anything is written to, without a word about it in any draft.
  const always = [
    {
      key: 'language',
      name: 'Every email',
      where: 'how dates, prices and timers are written',
      path: '/sequences',
      live: true,
    },
  ];
  const asked = await inSegments(db, ws, (rule) => [...spokenOf(atomsOf(rule)).attributes]);
  const filled = await inForms(db, ws, (f) => [
    ...f.fields.flatMap((field) => (field.kind === 'attribute' ? [field.key] : [])),
    ...setsOf(f).flatMap((s) => (s.kind === 'attribute' ? [s.key] : [])),
  ]);
  const filling = await inImports(db, ws, (plan) => plan.columns.flatMap((c) => (c.to === 'attribute' ? [c.key] : [])));
  const all = [...always, ...inSequences, ...asked, ...filled, ...filling, ...inLibrary];
  return [...new Map(all.map((u) => [`${u.key} ${u.path} ${u.name} ${u.where}`, u])).values()];
}

/** Where one attribute is used. */
export const usesOfAttribute = async (db: Executor, ws: string, key: string): Promise<AttributeUse[]> =>
  (await usesOfAttributes(db, ws)).filter((u) => u.key === key).map(({ key: _, ...use }) => use);

/** All attributes in their order, with how many people have a value and where each is used. */
export async function listAttributes(db: Executor, ws: string): Promise<AttributeDetails[]> {
  const found = await rows<AttributeRow & { people: number }>(
    db,
    sql`with held as (select k.key, count(*) as n from people p, jsonb_object_keys(p.attributes) as k(key) where p.workspace_id = ${ws} group by 1)
        select a.key, a.label, a.type, a.options, coalesce(held.n, 0) as people from attributes a left join held on held.key = a.key
        where a.workspace_id = ${ws} order by a.position, a.key`,
  );
  const uses = await usesOfAttributes(db, ws);
  return found.map((a) => ({ ...a, uses: uses.filter((u) => u.key === a.key).map(({ key: _, ...use }) => use) }));
}

/** Adds an attribute behind the others. False where there is one of that key. */
export async function addAttribute(
  db: Executor,
  ws: string,
  { key, label, type, options }: AttributeRow,
): Promise<boolean> {
  const made = await rows<{ key: string }>(
    db,
    sql`insert into attributes (workspace_id, key, label, type, options, position)
        select ${ws}, ${key}, ${label}, ${type}, ${sql.param(options)}::text[], coalesce(max(position), 0) + 1 from attributes where workspace_id = ${ws}
        on conflict do nothing returning key`,
  );
  return made.length > 0;
}

/** Gives an attribute another name, or other values to choose from. False where there is none. */
export async function changeAttribute(
  db: Executor,
  ws: string,
  key: string,
  { label, options }: { label?: string | undefined; options?: readonly string[] | undefined },
): Promise<boolean> {
  const changed = await rows<{ key: string }>(
    db,
    sql`update attributes set label = coalesce(${label ?? null}, label), options = coalesce(${options ? sql.param(options) : null}::text[], options)
        where workspace_id = ${ws} and key = ${key} and (${options === undefined || options.length === 0} or type = 'text') returning key`,
  );
  return changed.length > 0;
}

/** Puts attributes into this order; those that are not named keep their place behind. */
export async function orderAttributes(db: Executor, ws: string, keys: readonly string[]): Promise<void> {
  await db.execute(
    sql`update attributes a set position = o.n from unnest(${sql.param(keys)}::text[]) with ordinality as o(key, n)
        where a.workspace_id = ${ws} and a.key = o.key`,
  );
}

/** What values attributes take, by key. */
export async function attributeTypes(db: Executor, ws: string): Promise<Map<string, ValueKind>> {
  const known = await rows<{ key: string } & ValueKind>(
    db,
    sql`select key, type, options from attributes where workspace_id = ${ws}`,
  );
  return new Map(known.map(({ key, ...kind }) => [key, kind]));
}
