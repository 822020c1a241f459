import MailComposer from 'nodemailer/lib/mail-composer';
import { sql } from 'drizzle-orm';
import { fieldText, readTemplate, type Facts } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Connection, Executor } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { callWebhook } from '../mail/webhook.ts';
import { messageId } from '../mail/mime.ts';
import type { Delivery } from '../mail/transport.ts';
import { loadFacts } from './facts.ts';
import { mergeContext } from './merging.ts';
import type { SendSettings } from './send-loop.ts';

const MINUTE = 60_000;
const BATCH = 20;
const LEASE_MS = 120_000;
/** Waits before the next try of a notice that did not get through; after the last it is given up. */
const BACKOFF = [MINUTE, 5 * MINUTE, 30 * MINUTE, 2 * 60 * MINUTE, 8 * 60 * MINUTE, 24 * 60 * MINUTE];

interface NoticeRow {
  workspace_id: string;
  id: string;
  visit_id: string;
  sequence_id: string;
  version: number;
  step: string;
  person_id: string;
  kind: 'tell' | 'call';
  to: string;
  text: string;
  due_at: number;
  attempts: number;
  entry: Record<string, unknown>;
  name: string;
  currency: string;
}

const lease = (connection: Connection, now: number) =>
  rows<NoticeRow>(
    connection.db,
    sql`with due as (
          select workspace_id, id from notices
          where status = 'queued' and next_at <= ${now} and (lease_until is null or lease_until < ${Date.now()})
          order by next_at limit ${BATCH} for update skip locked)
        update notices n set lease_until = ${Date.now() + LEASE_MS}, attempts = n.attempts + 1
        from due join notices d on d.workspace_id = due.workspace_id and d.id = due.id
        join visits v on v.workspace_id = d.workspace_id and v.id = d.visit_id
        join sequences s on s.workspace_id = d.workspace_id and s.id = d.sequence_id
        where n.workspace_id = due.workspace_id and n.id = due.id
        returning n.workspace_id, n.id, n.visit_id, n.sequence_id, n.version, n.step, n.person_id, n.kind, n."to", n.text, n.due_at, n.attempts, v.entry, s.name, (select currency from workspaces w where w.id = n.workspace_id) as currency`,
  );

type Sender = { name: string; email: string; fields: Record<string, string> };

async function defaultSender(db: Executor, ws: string): Promise<Sender | undefined> {
  return firstRow<Sender>(
    db,
    sql`select name, email, fields from senders where workspace_id = ${ws} order by is_default desc limit 1`,
  );
}

/** The email to a colleague: plain text, with the person's own page behind it. */
function teamEmail(notice: NoticeRow, facts: Facts, sender: Sender, base: string): Promise<Buffer> {
  const context = mergeContext(facts, {
    entry: notice.entry,
    sender,
    currency: notice.currency,
    sequence: { name: notice.name, email: '' },
    asking: { now: notice.due_at, enteredAt: notice.due_at, stepTimes: {} },
  });
  const text = readTemplate(notice.text)
    .pieces.map((p) => (typeof p === 'string' ? p : fieldText(p, context)))
    .join('');
  return new MailComposer({
    from: { name: sender.name, address: sender.email },
    to: { name: '', address: notice.to },
    subject: `${notice.name}: ${facts.person.email}`,
    text: `${text}\n\nTheir page: ${base}/people/${facts.person.id}\n`,
    textEncoding: 'quoted-printable',
    newline: 'windows',
    date: new Date(notice.due_at),
    messageId: messageId(notice.id, sender.email),
    disableFileAccess: true,
    disableUrlAccess: true,
  })
    .compile()
    .build();
}

async function deliver(connection: Connection, settings: SendSettings, notice: NoticeRow): Promise<Delivery> {
  const facts = (
    await loadFacts(connection.db, [
      {
        workspace_id: notice.workspace_id,
        visit_id: notice.id,
        person_id: notice.person_id,
        events: [],
        emails: false,
        links: false,
        segments: [],
      },
    ])
  ).get(notice.id);
  if (!facts) return { kind: 'refused', answer: 'The person was deleted.' };
  if (notice.kind === 'tell') {
    const sender = await defaultSender(connection.db, notice.workspace_id);
    if (!sender) return { kind: 'refused', answer: 'There is no sender.' };
    const message = await teamEmail(notice, facts, sender, settings.base);
    return settings.transport.deliver(sender.email, notice.to, message.toString('latin1'));
  }
  const { email, attributes, tags, points } = facts.person;
  // A code that was issued brings its words along; a step tells of the person as they are.
  const step = {
    type: 'sequence.step',
    timestamp: new Date(notice.due_at).toISOString(),
    data: {
      sequence: { id: notice.sequence_id, name: notice.name, version: notice.version },
      step: notice.step,
      person: { id: facts.person.id, email, attributes, tags, points },
      event: notice.entry,
    },
  };
  return callWebhook(
    notice.to,
    { id: notice.id, body: notice.text || JSON.stringify(step) },
    { secret: settings.secret, workspace: notice.workspace_id, allowed: settings.allowedHosts },
  );
}

async function record(connection: Connection, n: NoticeRow, delivery: Delivery, now: number): Promise<void> {
  const wait = delivery.kind === 'later' ? BACKOFF[n.attempts - 1] : undefined;
  const status = delivery.kind === 'accepted' ? 'done' : wait === undefined ? 'failed' : 'queued';
  await connection.db.transaction(async (tx) => {
    await tx.execute(
      sql`update notices set status = ${status}, lease_until = null, answer = ${delivery.answer.slice(0, 500)}, next_at = ${now + (wait ?? 0)} where workspace_id = ${n.workspace_id} and id = ${n.id}`,
    );
    if (status !== 'failed') return;
    const data = { to: n.to, attempts: n.attempts, answer: delivery.answer.slice(0, 200) };
    await tx.execute(
      sql`insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
          values (${n.workspace_id}, ${n.person_id}, ${newId()}, ${n.visit_id}, ${n.sequence_id}, ${n.version}, ${now}, ${n.step}, 'call-failed', ${JSON.stringify(data)}::jsonb)`,
    );
  });
}

/** Hands over what actions tell the team or other machines. Answers how many it tried. */
export async function noticeRound(connection: Connection, settings: SendSettings, now: number): Promise<number> {
  const leased = await lease(connection, now);
  for (const notice of leased) await record(connection, notice, await deliver(connection, settings, notice), now);
  return leased.length;
}
