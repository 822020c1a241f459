import { sql } from 'drizzle-orm';
import {
  goalReached,
  mailBar,
  offerState,
  valuesFor,
  type Addresses,
  type Facts,
  type MergeContext,
  type Runnable,
  type Values,
} from '@ascenso/core';
import type { Connection, Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { buildMessage } from '../mail/mime.ts';
import { signSend } from '../mail/token.ts';
import type { SmtpTransport } from '../mail/transport.ts';
import { loadFacts, type Wanted } from './facts.ts';
import { freeUnsent, markIssued, type Shown } from './offers.ts';
import { mergeContext } from './merging.ts';
import { AcceptedLog, recordRefusal, settle } from './outcomes.ts';
import { loadProgram, loadVersion, type LoadedProgram, type LoadedVersion } from './versions.ts';

/** Messages leased at once: what is left of them when a process is killed waits for its lease to end. */
export const SEND_BATCH = 200;
/** How long a batch belongs to the process that took it, ms on the system clock. */
export const LEASE_MS = 60_000;

export interface SendSettings {
  transport: SmtpTransport;
  /** Public base address, without a slash at the end. */
  base: string;
  secret: string;
  /** Parallel SMTP conversations. */
  parallel: number;
  /** Length of a lease, ms. 0 takes the lease out: only the test that proves that it is needed does so. */
  leaseMs: number;
  /** "host:port" of stand-ins that webhooks may call although they are private. */
  allowedHosts: readonly string[];
}

export interface LeasedRow {
  workspace_id: string;
  id: string;
  visit_id: string | null;
  sequence_id: string;
  version: number;
  step: string;
  person_id: string;
  program_hash: string;
  due_at: number;
  attempts: number;
  to: string | null;
  values: Values | null;
  entry: Record<string, unknown> | null;
  visit_status: 'active' | 'done' | null;
  entered_at: number | null;
  step_times: Record<string, number> | null;
  own_change: boolean;
  list_name: string | null;
  list_id: string | null;
  currency: string;
}

/** The addresses that an email of one send carries. */
export function addressesFor(base: string, token: string): Addresses {
  return {
    base,
    unsubscribe: `${base}/u/${token}`,
    open: `${base}/o/${token}.gif`,
    link: (n) => `${base}/c/${token}/${n}`,
    timer: (n) => `${base}/t/${token}/${n}.gif`,
  };
}

async function lease(tx: Tx, now: number, size: number, until: number): Promise<LeasedRow[]> {
  const system = Date.now();
  const keep = until > system;
  return rows<LeasedRow>(
    tx,
    sql`with due as (
          select s.workspace_id, s.id from sends s
          where s.status in ('queued', 'leased') and s.next_at <= ${now} and (s.lease_until is null or s.lease_until < ${system})
            and not exists (select 1 from visits v where v.workspace_id = s.workspace_id and v.id = s.visit_id and v.status = 'active' and v.next_due_at <= ${now})
            and not exists (select 1 from sequences q where q.workspace_id = s.workspace_id and q.id = s.sequence_id and q.status = 'paused' and s.visit_id is not null)
          order by s.next_at, s.id limit ${size} for update of s skip locked)
        update sends s set status = ${keep ? 'leased' : 'queued'}, lease_until = ${keep ? until : null}::bigint, attempts = s.attempts + 1
        from due
        left join sends d on d.workspace_id = due.workspace_id and d.id = due.id
        left join visits v on v.workspace_id = d.workspace_id and v.id = d.visit_id
        left join versions n on n.workspace_id = d.workspace_id and n.sequence_id = d.sequence_id and n.number = d.version
        left join workspaces w on w.id = d.workspace_id
        left join lists l on l.workspace_id = d.workspace_id and l.id::text = n.doc->>'list'
        where s.workspace_id = due.workspace_id and s.id = due.id
        returning s.workspace_id, s.id, s.visit_id, s.sequence_id, s.version, s.step, s.person_id, s.program_hash, s.due_at, s.attempts, s.own_change, s."to", s.values, v.entry, v.status as visit_status, v.entered_at, v.step_times, l.name as list_name, l.id as list_id, w.currency`,
  );
}

interface Ready {
  row: LeasedRow;
  program: LoadedProgram;
  to: string;
  values: Values;
}

// While a visit is under way, `advance` sees to its goal before its rows are let go. One that has ended may still have
// its last email in the queue, for hours when the receiving server is busy.
const goalIsOpen = (row: LeasedRow) => row.visit_status === 'done';

/** Why a send may no longer go out, or null. */
function barOf(
  row: LeasedRow,
  facts: Facts,
  run: Runnable | undefined,
  offer: string | undefined,
  now: number,
): string | null {
  if (!run) return null;
  const bar = mailBar(run.sequence, facts);
  if (bar) return bar;
  const state = offer === undefined ? null : offerState(facts.offers?.[offer]?.given, now);
  if (state === 'closed' || state === 'used') return `offer-${state}`;
  if (!goalIsOpen(row)) return null;
  const asking = { facts, now, enteredAt: row.entered_at ?? 0, stepTimes: row.step_times ?? {} };
  if (!goalReached(run, asking)) return null;
  // What the sequence itself changed after this email can have reached the goal: then only something newer counts.
  const before = { ...facts, events: facts.events.filter((e) => e.at <= row.due_at) };
  return row.own_change && goalReached(run, { ...asking, facts: before }) ? null : 'goal';
}

/** The facts that the goal of a visit that has ended asks for, and the conditional parts of the email itself. */
function wantedFor(r: LeasedRow, version: LoadedVersion | undefined, { asks }: LoadedProgram): Wanted {
  const goal = goalIsOpen(r) ? version?.needs : undefined;
  return {
    workspace_id: r.workspace_id,
    visit_id: r.visit_id ?? r.id,
    key: r.id,
    person_id: r.person_id,
    events: [...(goal?.events ?? []), ...asks.events],
    segments: [...(goal?.segments ?? []), ...asks.segments],
    offers: [...(goal?.offers ?? []), ...asks.offers],
    emails: asks.emails,
    links: asks.links,
  };
}

function contextOf(
  row: LeasedRow,
  facts: Facts,
  { sender, program }: LoadedProgram,
  run: Runnable | undefined,
): MergeContext {
  const step = run?.steps.get(row.step)?.step;
  return mergeContext(facts, {
    entry: row.entry,
    sender,
    currency: row.currency,
    offer: program.offer,
    sequence: { name: run?.sequence.name ?? '', email: step?.kind === 'email' ? step.name : '' },
    // What an email says is asked in the moment that was decided for it, however late it leaves.
    asking: { now: row.due_at, enteredAt: row.entered_at ?? 0, stepTimes: row.step_times ?? {} },
  });
}

/** The offer that an email shows for the first time; a retry shows what it showed before. */
function shownBy({ row, program: { program } }: Ready, facts: Facts | undefined): Shown[] {
  if (row.values !== null || row.visit_id === null || !program.offer) return [];
  const webhook = facts?.offers?.[program.offer]?.offer.webhook ?? '';
  return [
    {
      w: row.workspace_id,
      person: row.person_id,
      offer: program.offer,
      at: row.due_at,
      visit: row.visit_id,
      sequence: row.sequence_id,
      version: row.version,
      step: row.step,
      webhook,
    },
  ];
}

/** Fills each leased send once and keeps the values with it; cancels those that may no longer go out. */
async function makeReady(tx: Tx, leased: readonly LeasedRow[], now: number): Promise<Ready[]> {
  const versions = new Map<string, LoadedVersion>();
  for (const r of leased)
    if (r.visit_id) versions.set(r.id, await loadVersion(tx, r.workspace_id, r.sequence_id, r.version));
  const programs = new Map<string, LoadedProgram>();
  for (const r of leased) programs.set(r.id, await loadProgram(tx, r.workspace_id, r.program_hash));
  const facts = await loadFacts(
    tx,
    leased.map((r) => wantedFor(r, versions.get(r.id), programs.get(r.id) as LoadedProgram)),
  );
  const ready: Ready[] = [];
  const cancelled: { row: LeasedRow; why: string }[] = [];
  for (const row of leased) {
    const known = facts.get(row.id);
    const program = programs.get(row.id) as LoadedProgram;
    const why = known ? barOf(row, known, versions.get(row.id)?.run, program.program.offer, now) : 'deleted';
    if (why || !known) cancelled.push({ row, why: why ?? 'deleted' });
    else
      ready.push({
        row,
        program,
        to: row.to ?? known.person.email,
        values: row.values ?? valuesFor(program.program, contextOf(row, known, program, versions.get(row.id)?.run)),
      });
  }
  const fresh = ready
    .filter((r) => r.row.values === null)
    .map((r) => ({ w: r.row.workspace_id, id: r.row.id, to: r.to, vals: r.values }));
  if (fresh.length > 0)
    await tx.execute(
      sql`update sends s set "to" = n."to", values = n.vals from jsonb_to_recordset(${batch(fresh)}) as n(w uuid, id uuid, "to" text, vals jsonb) where s.workspace_id = n.w and s.id = n.id`,
    );
  await markIssued(
    tx,
    ready.flatMap((r) => shownBy(r, facts.get(r.row.id))),
  );
  for (const { row, why } of cancelled)
    await settle(tx, row, { status: 'cancelled', code: 'email-cancelled', data: { why } }, now);
  await freeUnsent(
    tx,
    cancelled.flatMap(({ row }) => (row.visit_id ? [{ w: row.workspace_id, id: row.id }] : [])),
  );
  return ready;
}

/** The finished message of a send that has its values. */
export function messageOf(
  row: Pick<LeasedRow, 'workspace_id' | 'id' | 'due_at' | 'list_id' | 'list_name'>,
  { program, encoded, sender }: Pick<LoadedProgram, 'program' | 'encoded' | 'sender'>,
  to: string,
  values: Values,
  settings: Pick<SendSettings, 'base' | 'secret'>,
): string {
  const token = signSend(settings.secret, { workspaceId: row.workspace_id, sendId: row.id });
  const domain = sender.email.split('@')[1] ?? 'localhost';
  return buildMessage({
    sendId: row.id,
    program,
    encoded,
    values,
    addresses: addressesFor(settings.base, token),
    from: sender,
    to: { name: '', email: to },
    date: row.due_at,
    list: row.list_id ? { id: `${row.list_id}.${domain}`, name: row.list_name ?? '' } : null,
  });
}

/**
 * Leases one batch of due sends, commits (the point of no return), hands each message over and records each answer as
 * it comes. Never holds a transaction while speaking SMTP. Answers how many it took.
 */
export async function sendRound(
  connection: Connection,
  settings: SendSettings,
  now: number,
  size = SEND_BATCH,
): Promise<number> {
  const until = Date.now() + settings.leaseMs;
  const { taken, ready } = await connection.db.transaction(async (tx) => {
    const leased = await lease(tx, now, size, until);
    return { taken: leased.length, ready: leased.length > 0 ? await makeReady(tx, leased, now) : [] };
  });
  const waiting = [...ready];
  const accepted = new AcceptedLog(connection.db, now);
  const converse = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      // A receiving server so slow that the lease runs out: what is left is for whoever leases it next.
      if (settings.leaseMs > 0 && Date.now() > until - settings.leaseMs / 4) return;
      const { row, program, to, values } = next;
      const delivery = await settings.transport.deliver(
        program.sender.email,
        to,
        messageOf(row, program, to, values, settings),
      );
      if (delivery.kind === 'accepted') accepted.note(row, delivery.answer);
      else await recordRefusal(connection, row, delivery, now);
    }
  };
  await Promise.all(Array.from({ length: settings.parallel }, converse));
  await accepted.written();
  return taken;
}
