import { sql } from 'drizzle-orm';
import type { SequenceFile } from '@ascenso/contracts';
import {
  atomsOf,
  conditionsOfBlock,
  everyCondition,
  emailSteps,
  fieldsIn,
  spokenOf,
  startingEvents,
  walkBlocks,
  type Condition,
  type Sequence,
} from '@ascenso/core';
import { newId } from '../app/ids.ts';
import { notFound } from '../app/errors.ts';
import type { Executor, Tx } from './connect.ts';
import { keepFile } from './files.ts';
import { firstRow, rows } from './rows.ts';
import { randomBytes } from '../app/chance.ts';

type Kept<K extends keyof SequenceFile> = SequenceFile[K] extends (infer T)[] ? T : never;

/** Names of the events, and keys of the attributes, that a sequence and its segments speak of. */
function spokenIn(sequence: Sequence, rules: readonly Condition[]): { events: string[]; attributes: string[] } {
  const asked = spokenOf([...everyCondition(sequence), ...rules].flatMap(atomsOf));
  const triggers = sequence.triggers.flatMap((t) =>
    t.kind === 'date' ? [t.attribute] : t.kind === 'attribute' ? [t.test.field] : [],
  );
  const quiet = sequence.triggers.flatMap((t) =>
    t.kind === 'quiet' ? [t.event] : t.kind === 'unfollowed' ? [t.without] : [],
  );
  const merged = emailSteps(sequence)
    .flatMap((s) => fieldsIn(s.email))
    .filter((p) => p.startsWith('subscriber.'))
    .map((p) => p.slice(11));
  const text = JSON.stringify(sequence.steps);
  const set = [
    ...text.matchAll(/"type":"set-attribute","key":"([^"]+)"/g),
    ...text.matchAll(/"field":"subscriber\.([^"]+)"/g),
  ].map((m) => m[1] ?? '');
  return {
    events: [
      ...[...text.matchAll(/"list":"recent\.([^"]+)"/g)].map((m) => m[1] ?? ''),
      ...startingEvents(sequence.triggers),
      ...quiet,
      ...asked.events,
    ],
    attributes: [...triggers, ...merged, ...set, ...asked.attributes],
  };
}

/** Everything that a sequence needs to be set up elsewhere. Ids occur as text in its JSON wherever it refers to something. */
export async function exportSequence(db: Executor, ws: string, id: string): Promise<SequenceFile> {
  const row = await firstRow<{ draft: Sequence }>(
    db,
    sql`select draft from sequences where workspace_id = ${ws} and id = ${id}`,
  );
  if (!row) throw notFound('sequence');
  const sequence = row.draft;
  const allSegments = await rows<Kept<'segments'>>(
    db,
    sql`select id, name, rule from segments where workspace_id = ${ws} order by name`,
  );
  const allShared = await rows<Kept<'shared'>>(
    db,
    sql`select id, name, blocks from shared_blocks where workspace_id = ${ws} order by name, id`,
  );
  const shared = allShared.filter((s) => JSON.stringify(sequence).includes(s.id));
  const draftText = JSON.stringify([sequence, shared]);
  const segments = allSegments.filter((s) => draftText.includes(s.id));
  const allOffers = await rows<Kept<'offers'>>(
    db,
    sql`select id, doc->>'name' as name, doc as offer from offers where workspace_id = ${ws} order by 2, id`,
  );
  const offers = allOffers.filter((o) => (draftText + JSON.stringify(segments)).includes(o.id));
  const text = draftText + JSON.stringify([segments, offers]);
  const spoken = spokenIn(sequence, [
    ...segments.map((s) => s.rule),
    ...shared.flatMap((s) => walkBlocks(s.blocks).flatMap((p) => conditionsOfBlock(p.block))),
  ]);
  const named = async (table: string) =>
    (
      await rows<{ id: string; name: string }>(
        db,
        sql`select id, name from ${sql.identifier(table)} where workspace_id = ${ws} order by name, id`,
      )
    ).filter((r) => text.includes(r.id) && r.id !== id);
  const senders = await rows<Kept<'senders'>>(
    db,
    sql`select id, name, email, fields from senders where workspace_id = ${ws} order by name, id`,
  );
  for (const { deadline } of offers.map((o) => o.offer)) {
    if (deadline.kind === 'attribute') spoken.attributes.push(deadline.field);
    if (deadline.kind === 'after' && deadline.from === 'event') spoken.events.push(deadline.event);
  }
  const attributes = await rows<Kept<'attributes'>>(
    db,
    sql`select key, label, type, options from attributes where workspace_id = ${ws} and key = any (${sql.param(spoken.attributes)}::text[]) order by position, key`,
  );
  const events = await rows<Kept<'events'>>(
    db,
    sql`select name, label, fields, sample from event_kinds where workspace_id = ${ws} and name = any (${sql.param(spoken.events)}::text[]) order by name`,
  );
  const files: Kept<'files'>[] = [];
  for (const { id: file, name } of await named('files')) {
    const content = await firstRow<{ content: Buffer }>(
      db,
      sql`select content from files where workspace_id = ${ws} and id = ${file}`,
    );
    files.push({ id: file, name, content: (content?.content ?? Buffer.alloc(0)).toString('base64') });
  }
  return {
    format: 'ascenso-sequence',
    version: 2,
    sequence,
    lists: await named('lists'),
    segments,
    senders: senders.filter((s) => text.includes(s.id)),
    attributes,
    events,
    sequences: await named('sequences'),
    shared,
    offers,
    files,
  };
}

/** Finds each thing by what it is called, or makes it; answers the id here for each id in the file. */
async function place(tx: Tx, ws: string, file: SequenceFile, now: number): Promise<Map<string, string>> {
  const ids = new Map<string, string>();
  for (const l of file.lists) {
    const known = await firstRow<{ id: string }>(
      tx,
      sql`select id from lists where workspace_id = ${ws} and lower(name) = ${l.name.toLowerCase()}`,
    );
    const id = known?.id ?? newId();
    if (!known) await tx.execute(sql`insert into lists (workspace_id, id, name) values (${ws}, ${id}, ${l.name})`);
    ids.set(l.id, id);
  }
  for (const s of file.senders) {
    const known = await firstRow<{ id: string }>(
      tx,
      sql`select id from senders where workspace_id = ${ws} and email = ${s.email} and name = ${s.name}`,
    );
    const id = known?.id ?? newId();
    if (!known)
      await tx.execute(
        sql`insert into senders (workspace_id, id, name, email, is_default, untouched, fields) values (${ws}, ${id}, ${s.name}, ${s.email}, false, false, ${JSON.stringify(s.fields)}::jsonb)`,
      );
    ids.set(s.id, id);
  }
  for (const a of file.attributes)
    await tx.execute(
      sql`insert into attributes (workspace_id, key, label, type, position, options) values (${ws}, ${a.key}, ${a.label}, ${a.type}, 100, ${sql.param(a.options ?? [])}::text[]) on conflict do nothing`,
    );
  for (const e of file.events)
    await tx.execute(
      sql`insert into event_kinds (workspace_id, name, label, fields, sample, learned) values (${ws}, ${e.name}, ${e.label}, ${JSON.stringify(e.fields)}::jsonb, ${JSON.stringify(e.sample)}::jsonb, false) on conflict do nothing`,
    );
  for (const f of file.files) ids.set(f.id, (await keepFile(tx, ws, f.name, Buffer.from(f.content, 'base64'), now)).id);
  for (const o of file.offers) {
    const known = await firstRow<{ id: string }>(
      tx,
      sql`select id from offers where workspace_id = ${ws} and lower(doc->>'name') = ${o.name.toLowerCase()} order by created_at limit 1`,
    );
    const id = known?.id ?? newId();
    if (!known)
      await tx.execute(
        sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${ws}, ${id}, ${renamed(o.offer, ids)}::jsonb, ${randomBytes(32)}, ${now})`,
      );
    ids.set(o.id, id);
  }
  for (const s of file.sequences) {
    const known = await firstRow<{ id: string }>(
      tx,
      sql`select id from sequences where workspace_id = ${ws} and name = ${s.name} and status <> 'archived' order by created_at limit 1`,
    );
    ids.set(s.id, known?.id ?? '');
  }
  // Last come segments: their rules speak of lists that have their ids by now.
  for (const s of file.segments) {
    const known = await firstRow<{ id: string }>(
      tx,
      sql`select id from segments where workspace_id = ${ws} and lower(name) = ${s.name.toLowerCase()}`,
    );
    const id = known?.id ?? newId();
    if (!known)
      await tx.execute(
        sql`insert into segments (workspace_id, id, name, rule, created_at) values (${ws}, ${id}, ${s.name}, ${renamed(s.rule, ids)}::jsonb, ${now})`,
      );
    ids.set(s.id, id);
  }
  for (const s of file.shared) {
    const known = await firstRow<{ id: string }>(
      tx,
      sql`select id from shared_blocks where workspace_id = ${ws} and lower(name) = ${s.name.toLowerCase()} order by updated_at limit 1`,
    );
    const id = known?.id ?? newId();
    if (!known)
      await tx.execute(
        sql`insert into shared_blocks (workspace_id, id, name, blocks, updated_at) values (${ws}, ${id}, ${s.name}, ${renamed(s.blocks, ids)}::jsonb, ${now})`,
      );
    ids.set(s.id, id);
  }
  return ids;
}

/** JSON text with the ids of the file replaced: alone as a text, or after "file:" in the address of a link. */
function renamed(value: unknown, ids: ReadonlyMap<string, string>): string {
  return JSON.stringify(value, (_key, v: unknown) => {
    if (typeof v !== 'string') return v;
    const file = v.startsWith('file:') ? ids.get(v.slice(5)) : undefined;
    return file ? `file:${file}` : (ids.get(v) ?? v);
  });
}

/** Makes a draft from a file, with all that it refers to. Nothing goes live by it. Answers its id. */
export async function importSequence(tx: Tx, ws: string, file: SequenceFile, now: number): Promise<string> {
  const ids = await place(tx, ws, file, now);
  const id = newId();
  await tx.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${ws}, ${id}, ${file.sequence.name}, 'draft', ${now}, 0, ${renamed(file.sequence, ids)}::jsonb)`,
  );
  return id;
}
