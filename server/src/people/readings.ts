import { and, eq, isNotNull, sql } from 'drizzle-orm';
import { targetOfLink, type LinkRef } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Db, Executor, Tx } from '../db/connect.ts';
import { fileName } from '../db/files.ts';
import { LINK } from '../db/atom-sql.ts';
import { firstRow, rows } from '../db/rows.ts';
import { sends } from '../db/schema/index.ts';
import { filledSend } from '../db/sends.ts';
import { again, transact } from '../db/transact.ts';
import { lookAtVersion } from '../db/versions.ts';
import type { SendKey } from '../mail/token.ts';
import { isAwaited } from './awaited.ts';
import { happen } from './entering.ts';
import { storeInternalEvent } from './internal-events.ts';
import { unsubscribe } from './permission.ts';
import { noteReading } from './scoring.ts';
import { wakeVisit } from './visits.ts';

const one = (key: SendKey) => and(eq(sends.workspaceId, key.workspaceId), eq(sends.id, key.sendId));

/** Openings of one email within this are one, ms: nobody fills the table by opening. */
const ONE_OPENING = 60_000;

/** What an email is read on and with, as far as that is known. */
export interface ReadWith {
  device: 'phone' | 'tablet' | 'computer' | null;
  program: string | null;
}
const UNKNOWN: ReadWith = { device: null, program: null };

async function addReading(
  db: Executor,
  key: SendKey,
  kind: 'open' | 'click',
  link: LinkRef | null,
  at: number,
  prefetched: boolean,
  { device, program }: ReadWith,
): Promise<void> {
  await db.execute(
    sql`insert into readings (workspace_id, send_id, id, kind, link_number, link_repeat, link_item, at, prefetched, device, program)
        select ${key.workspaceId}::uuid, ${key.sendId}::uuid, ${newId()}::uuid, ${kind}::text, ${link?.number ?? null}::int, ${link?.repeat ?? null}::int, ${link?.item ?? null}::int, ${at}::bigint, ${prefetched}::boolean, ${device}::text, ${program}::text
        where ${kind}::text <> 'open' or not exists (
          select 1 from readings r where r.workspace_id = ${key.workspaceId} and r.send_id = ${key.sendId} and r.kind = 'open' and r.prefetched = ${prefetched} and r.at > ${at - ONE_OPENING})`,
  );
}

/**
 * Whoever waits until an email is opened or clicked is looked at now: in its own sequence, and in others that ask about all
 * their mail.
 */
async function wakeReader(db: Executor, key: SendKey, at: number): Promise<void> {
  const visits = await rows<{ id: string; sequence: string; version: number; own: boolean }>(
    db,
    sql`select v.id, v.sequence_id as sequence, v.version, v.id = s.visit_id as own
        from sends s join visits v on v.workspace_id = s.workspace_id and v.person_id = s.person_id and v.status = 'active'
        where s.workspace_id = ${key.workspaceId} and s.id = ${key.sendId} and s.visit_id is not null order by v.id`,
  );
  for (const v of visits) {
    // A version that cannot be read keeps nobody from opening an email.
    const needs = (await lookAtVersion(db, key.workspaceId, v.sequence, v.version))?.needs;
    // Most versions wait for nothing: waking their people at every opening would be work for nobody.
    if (needs?.waits && (v.own || needs.mail || needs.points || needs.segments.length > 0))
      await wakeVisit(db, key.workspaceId, v.id, at);
  }
}

/** An opening. Prefetched ones are kept and flagged, but do not count as opened. */
export async function recordOpen(
  db: Db,
  key: SendKey,
  at: number,
  prefetched: boolean,
  by: ReadWith = UNKNOWN,
): Promise<void> {
  if (prefetched) {
    const [known] = await db.select({ id: sends.id }).from(sends).where(one(key));
    if (known) await addReading(db, key, 'open', null, at, true, by);
    return;
  }
  const send = await again(() => noteReading(db, key, 'opened', at));
  if (!send) return;
  await addReading(db, key, 'open', null, at, false, by);
  await wakeReader(db, key, at);
  // Most workspaces wait for no reading: then no transaction is begun for it.
  if (send.visit && (await isAwaited(db, key.workspaceId, 'reading')))
    await transact(db, (tx) => readingHappened(tx, key, send.person, 'opened', null, at));
}

/** A reading can start a sequence: once for each email, however often it is opened. */
async function readingHappened(
  tx: Tx,
  key: SendKey,
  personId: string,
  what: 'opened' | 'clicked',
  link: LinkRef | null,
  at: number,
): Promise<void> {
  const { workspaceId: ws, sendId } = key;
  if (!(await isAwaited(tx, ws, 'reading'))) return;
  const read = await firstRow<{ sequence: string; step: string; link: string | null }>(
    tx,
    sql`select s.sequence_id as sequence, s.step, (${LINK})->>'address' as link from sends s
          join programs g on g.workspace_id = s.workspace_id and g.hash = s.program_hash,
          (select ${link?.number ?? null}::int as link_number, ${link?.repeat ?? null}::int as link_repeat) r
        where s.workspace_id = ${ws} and s.id = ${sendId}`,
  );
  // Opened, and then clicked: one reading of one email is one cause, whatever shows it.
  if (read) await happen(tx, ws, personId, { kind: 'reading', what, ...read }, `read:${sendId}`, { at, now: at });
}

/** Target of a link as it was sent: '' for a link without one, null when there is no such link. */
export async function targetOf(db: Executor, key: SendKey, link: LinkRef): Promise<string | null> {
  const sent = await filledSend(db, key);
  return sent ? (targetOfLink(sent.program, sent.values, link)?.target ?? null) : null;
}

async function downloaded(tx: Tx, ws: string, person: string, file: string, at: number): Promise<void> {
  const name = await fileName(tx, ws, file);
  await storeInternalEvent(tx, ws, person, 'file.downloaded', { file, name: name ?? '' }, at);
}

/** Somebody fetches a file from a page that is theirs. */
export const recordDownload = (db: Db, ws: string, person: string, file: string, at: number): Promise<void> =>
  transact(db, (tx) => downloaded(tx, ws, person, file, at));

/** A click counts as an open. A click on a hosted file also tells the person's story that it was downloaded. */
export async function recordClick(
  db: Db,
  key: SendKey,
  link: LinkRef,
  target: string,
  at: number,
  prefetched: boolean,
  by: ReadWith = UNKNOWN,
): Promise<void> {
  await transact(db, async (tx) => {
    await addReading(tx, key, 'click', link, at, prefetched, by);
    if (!prefetched) {
      const send = await noteReading(tx, key, 'clicked', at);
      await wakeReader(tx, key, at);
      if (send?.visit) await readingHappened(tx, key, send.person, 'clicked', link, at);
      if (send?.visit && target.startsWith('file:'))
        await downloaded(tx, key.workspaceId, send.person, target.slice(5), at);
    }
  });
}

/** One click on "unsubscribe" in an email: whoever is inside a sequence leaves it before its next email. */
export async function unsubscribeFrom(db: Db, key: SendKey, where: string | null, at: number): Promise<void> {
  await transact(db, async (tx) => {
    const [send] = await tx
      .update(sends)
      .set({ leftAt: sql`coalesce(${sends.leftAt}, ${at})` })
      .where(and(one(key), isNotNull(sends.visitId)))
      .returning({ person_id: sends.personId });
    const source = { how: 'one-click', label: '', words: '' } as const;
    if (send) await unsubscribe(tx, key.workspaceId, send.person_id, at, source, where);
  });
}
