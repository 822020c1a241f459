import MailComposer from 'nodemailer/lib/mail-composer';
import { sql } from 'drizzle-orm';
import { fieldText, readTemplate, type Facts } from '@ascenso/core';
import { webhooksAnswered } from '../app/metrics.ts';
import type { Connection, Executor } from '../db/connect.ts';
import { loadFacts } from '../db/facts.ts';
import { batch, firstRow, rows } from '../db/rows.ts';
import { messageId } from '../mail/mime.ts';
import { callWebhook, type Called } from '../mail/webhook.ts';
import { writeTraces, type Reason } from '../people/traces.ts';
import { Leases } from './leases.ts';
import type { Letter } from '../mail/reports.ts';
import { mergeContext } from './merging.ts';
import { Receivers } from './receivers.ts';
import { handled, isOfTheRow, setAside } from './setting-aside.ts';
import { LEASE_MS, type SendSettings } from './settings.ts';

const MINUTE = 60_000;
const BATCH = 20;
/** How long a round waits for its receivers, ms: what takes longer goes on beside the next rounds. */
const PATIENCE_MS = 500;
/** An hour that a receiver asks to be left alone for is kept to; a year is not. */
const LONGEST_WAIT = 24 * 60 * MINUTE;
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
  /** What a step tells a colleague or a machine, that a sequence was paused by itself, or what a reader wrote back. */
  kind: 'tell' | 'call' | 'halt' | 'answer';
  to: string;
  text: string;
  due_at: number;
  attempts: number;
  entry: Record<string, unknown>;
  name: string;
  currency: string;
}

/** Who a notice is handed to: a machine by its host, all colleagues by the one mail server. */
const RECEIVER = sql.raw(`case when kind = 'tell' then 'mail' else split_part("to", '/', 3) end`);
const receiverOf = (n: NoticeRow): string => (n.kind === 'call' ? (n.to.split('/')[2] ?? '') : 'mail');

const lease = (connection: Connection, now: number, busy: readonly string[]) =>
  rows<NoticeRow>(
    connection.db,
    sql`with due as (
          select workspace_id, id from notices
          where status = 'queued' and next_at <= ${now} and (lease_until is null or lease_until < ${Date.now()})
            and ${RECEIVER} <> all (${sql.param(busy)}::text[])
          order by next_at, id limit ${BATCH} for update skip locked)
        update notices n set lease_until = ${Date.now() + LEASE_MS}
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

/** What an email to a colleague says, and to whom they answer. */
function wordsOf(notice: NoticeRow, facts: Facts, sender: Sender, base: string) {
  if (notice.kind === 'answer') {
    const { from, subject, text } = JSON.parse(notice.text) as Letter;
    const page = `It came to the return address of “${notice.name}”. Their page: ${base}/people/${facts.person.id}`;
    return { subject: subject || `Re: ${notice.name}`, text: `${text.trim()}\n\n-- \n${page}\n`, replyTo: from };
  }
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
  const [subject, page] =
    notice.kind === 'halt'
      ? [`“${notice.name}” was paused by itself`, `Look at it: ${base}/sequences/${notice.sequence_id}`]
      : [`${notice.name}: ${facts.person.email}`, `Their page: ${base}/people/${facts.person.id}`];
  return { subject, text: `${text}\n\n${page}\n`, replyTo: undefined };
}

/** The email to a colleague: plain text, with the page behind it. */
function teamEmail(notice: NoticeRow, facts: Facts, sender: Sender, base: string): Promise<Buffer> {
  const { subject, text, replyTo } = wordsOf(notice, facts, sender, base);
  return new MailComposer({
    from: { name: sender.name, address: sender.email },
    to: { name: '', address: notice.to },
    ...(replyTo ? { replyTo: { name: '', address: replyTo } } : {}),
    subject,
    text,
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

async function deliver(connection: Connection, settings: SendSettings, notice: NoticeRow): Promise<Called> {
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
  if (notice.kind !== 'call') {
    const sender = await defaultSender(connection.db, notice.workspace_id);
    if (!sender) return { kind: 'refused', answer: 'There is no sender.' };
    const message = await teamEmail(notice, facts, sender, settings.base);
    const { kind, answer } = await settings.transport.deliver(sender.email, notice.to, message.toString('latin1'));
    // Handed over without an answer: telling a colleague twice does less harm than not at all.
    return { kind: kind === 'unanswered' ? 'later' : kind, answer };
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

/** How the story tells what came of a notice; null where it is no news. */
function told(n: NoticeRow, { kind, answer }: Called, status: string): Pick<Reason, 'code' | 'data'> | null {
  // It is no step of theirs.
  if (n.kind === 'halt' || n.kind === 'answer') return null;
  const tries = n.attempts + 1;
  if (status === 'failed')
    return { code: 'call-failed', data: { to: n.to, attempts: tries, answer: answer.slice(0, 200) } };
  if (kind !== 'accepted') return null;
  if (n.kind === 'tell') return { code: 'team-told', data: { to: n.to } };
  // What a shop is told of its codes is no step of the passage.
  return n.text === '' ? { code: 'webhook-called', data: { url: n.to } } : null;
}

async function record(connection: Connection, n: NoticeRow, called: Called, now: number): Promise<void> {
  // While the mail service is away, a message to the team is not tried: it waits, as every email does.
  const tried = called.kind !== 'unready';
  const pause = !tried ? MINUTE : called.kind === 'later' ? BACKOFF[n.attempts] : undefined;
  const wait = pause && Math.max(pause, Math.min(called.retryAfterMs ?? 0, LONGEST_WAIT));
  const status = called.kind === 'accepted' ? 'done' : wait === undefined ? 'failed' : 'queued';
  const news = told(n, called, status);
  if (n.kind === 'call') webhooksAnswered.inc({ answer: called.kind });
  await connection.db.transaction(async (tx) => {
    await tx.execute(
      sql`update notices set status = ${status}, lease_until = null, attempts = attempts + ${tried ? 1 : 0}, answer = ${called.answer.slice(0, 500)}, next_at = ${now + (wait ?? 0)} where workspace_id = ${n.workspace_id} and id = ${n.id}`,
    );
    await handled(tx, 'notice', [{ w: n.workspace_id, item: n.id }]);
    if (news)
      await writeTraces(tx, [
        {
          w: n.workspace_id,
          person: n.person_id,
          visit: n.visit_id,
          seq: n.sequence_id,
          version: n.version,
          at: now,
          step: n.step,
          ...news,
        },
      ]);
  });
}

/** Leaves a notice for later, since it cannot be made as things are. */
async function setNoticeAside(connection: Connection, n: NoticeRow, error: unknown, now: number): Promise<void> {
  if (!isOfTheRow(error)) throw error;
  await connection.db.transaction(async (tx) => {
    const what = {
      w: n.workspace_id,
      kind: 'notice',
      item: n.id,
      sequence: n.sequence_id,
      person: n.person_id,
    } as const;
    const { nextAt } = await setAside(tx, what, error, now);
    await tx.execute(
      sql`update notices set lease_until = null, next_at = ${nextAt} where workspace_id = ${n.workspace_id} and id = ${n.id}`,
    );
  });
}

/** What each process has under way, by its connection. */
const underWay = new WeakMap<Connection, { receivers: Receivers<NoticeRow>; leases: Leases<NoticeRow> }>();

function handsOf(connection: Connection) {
  const known = underWay.get(connection);
  if (known) return known;
  const leases = new Leases<NoticeRow>(LEASE_MS, (held, until) =>
    connection.db.execute(
      sql`update notices n set lease_until = ${until} from jsonb_to_recordset(${batch(held.map((h) => ({ w: h.workspace_id, id: h.id })))}) as k(w uuid, id uuid) where n.workspace_id = k.w and n.id = k.id`,
    ),
  );
  const made = { receivers: new Receivers<NoticeRow>(), leases };
  underWay.set(connection, made);
  return made;
}

/** Resolves when what a process has under way is handed over, at the latest after `ms`. */
export const noticesHandedOver = (connection: Connection, ms: number): Promise<void> =>
  handsOf(connection).receivers.settled(ms);

/** Hands over what actions tell the team or other machines, to each receiver a few at once. Answers how many it took. */
export async function noticeRound(connection: Connection, settings: SendSettings, now: number): Promise<number> {
  const { receivers, leases } = handsOf(connection);
  const leased = await lease(connection, now, receivers.busy());
  leases.hold(leased);
  receivers.begin(leased, receiverOf, async (notice) => {
    try {
      await record(connection, notice, await deliver(connection, settings, notice), now);
    } catch (error) {
      await setNoticeAside(connection, notice, error, now);
    } finally {
      leases.release([notice]);
    }
  });
  if (leased.length > 0) await receivers.settled(PATIENCE_MS);
  return leased.length;
}
