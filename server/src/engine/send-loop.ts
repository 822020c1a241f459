import { loadAttachments } from '../db/attachments.ts';
import { sendsAnswered } from '../app/metrics.ts';
import type { Connection } from '../db/connect.ts';
import { returnPath } from '../mail/return-path.ts';
import { makeReady, setSendAside, type Ready } from './filling.ts';
import { giveBack, leaseDue, renewLeases, type LeasedRow } from './leasing.ts';
import { Leases } from './leases.ts';
import { holdService, heldService, serviceWell } from './mail-service.ts';
import { messageOf } from './message.ts';
import { AcceptedLog, recordRefusal } from './outcomes.ts';
import { noteAccepted } from './senders.ts';
import { attempt, isOfTheRow } from './setting-aside.ts';
import type { SendSettings } from './settings.ts';

/** Messages leased at once: what is left of them when a process is killed waits for its lease to end. */
export const SEND_BATCH = 200;
/** Deliveries that a slow server may keep open behind a round, for all rounds of a process. */
const STRAGGLERS = 100;

/** Deliveries that go on while the next rounds run: a server may take minutes to answer, and holds up nobody else. */
const straggling = new Set<Promise<unknown>>();

/** Resolves when no delivery of this process is under way any more. */
export const delivered = async (): Promise<void> => {
  while (straggling.size > 0) await Promise.allSettled(straggling);
};

/** What came of a hand-over: where it was not made, the service was not asked at all. */
type HandedOver = 'accepted' | 'refused' | 'unready' | 'not-made';

/** Hands one message over and records what was said. Never holds a transaction while speaking SMTP. */
async function handOver(
  connection: Connection,
  settings: SendSettings,
  email: Ready,
  accepted: AcceptedLog,
  now: number,
): Promise<HandedOver> {
  const { row, program, to, values } = email;
  let message: string;
  try {
    const attached = await loadAttachments(connection.db, row.workspace_id, program.program.attachments);
    message = messageOf(row, program, to, values, settings, attached);
  } catch (error) {
    await connection.db.transaction((tx) => setSendAside(tx, row, error, now));
    return 'not-made';
  }
  const key = { workspaceId: row.workspace_id, sendId: row.id };
  const from = settings.returnDomain ? returnPath(settings.secret, key, settings.returnDomain) : program.sender.email;
  const delivery = await settings.transport.deliver(from, to, message);
  sendsAnswered.inc({ answer: delivery.kind === 'refused' ? delivery.fault : delivery.kind });
  if (delivery.kind === 'unready') {
    await holdService(connection.db, delivery.stage, delivery.answer);
    await giveBack(connection.db, [row]);
    return 'unready';
  }
  if (delivery.kind === 'accepted') accepted.note(row, delivery.answer);
  else await recordRefusal(connection, email, delivery, now);
  return delivery.kind === 'accepted' ? 'accepted' : 'refused';
}

/** Leases and fills a batch; where one email breaks the transaction itself, takes them one by one to find it. */
async function leaseAndFill(
  connection: Connection,
  settings: SendSettings,
  now: number,
  size: number,
): Promise<{ taken: number; ready: Ready[]; until: number }> {
  const until = Date.now() + settings.leaseMs;
  let leased: LeasedRow[] = [];
  try {
    return await connection.db.transaction(async (tx) => {
      leased = await leaseDue(tx, now, size, until);
      return { taken: leased.length, ready: leased.length > 0 ? await makeReady(tx, leased, now) : [], until };
    });
  } catch (error) {
    if (leased.length === 0 || !isOfTheRow(error)) throw error;
    return connection.db.transaction(async (tx) => {
      const again = await leaseDue(tx, now, size, until);
      const ready: Ready[] = [];
      for (const row of again) {
        const failed = await attempt(tx, async (part) => {
          ready.push(...(await makeReady(part, [row], now)));
        });
        if (failed) await setSendAside(tx, row, failed, now);
      }
      return { taken: again.length, ready, until };
    });
  }
}

/**
 * Leases one batch of due sends, commits (the point of no return), hands each message over and records each answer as
 * it comes. The lease lasts as long as a delivery does; what a slow receiving server leaves unbegun is given back. Answers
 * how many it took. While the mail service says no before any message is offered, nothing is taken but one email now and then,
 * to see whether it has changed its mind.
 */
export async function sendRound(
  connection: Connection,
  settings: SendSettings,
  now: number,
  size = SEND_BATCH,
): Promise<number> {
  const held = await heldService(connection.db);
  if (held && held.nextTryAt > Date.now()) return 0;
  const { taken, ready, until } = await leaseAndFill(connection, settings, now, held ? 1 : size);
  if (ready.length === 0) return taken;
  const leases = new Leases<LeasedRow>(settings.leaseMs, (held, end) => renewLeases(connection.db, held, end));
  leases.hold(ready.map((r) => r.row));
  const waiting = [...ready];
  const accepted = new AcceptedLog(connection.db, now);
  // Senders whose row of refusals has been broken since their last one.
  const well = new Set<string>();
  let unready = false;
  let mended = !held;
  const unhurt = settings.leaseMs > 0 ? until - settings.leaseMs / 4 : Infinity;
  const converse = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      if (unready || Date.now() > unhurt) {
        waiting.unshift(next);
        return;
      }
      const { row, sender } = next;
      const key = `${row.workspace_id}/${sender}`;
      try {
        const how = await handOver(connection, settings, next, accepted, now);
        if (how === 'unready') unready = true;
        else if (!mended && how !== 'not-made') {
          // It has listened to a message, whatever it said of it.
          mended = true;
          await serviceWell(connection.db);
        }
        if (how !== 'accepted') well.delete(key);
        else if (!well.has(key)) {
          well.add(key);
          await noteAccepted(connection.db, row.workspace_id, sender);
        }
      } finally {
        leases.release([row]);
      }
    }
  };
  const all = Promise.all(Array.from({ length: settings.parallel }, converse)).then(() => accepted.written());
  straggling.add(all);
  all.then(
    () => straggling.delete(all),
    () => straggling.delete(all),
  );
  await atMost(all, unhurt);
  // Whoever is still talking goes on talking, under a lease that is renewed; the rest is for whoever leases it next.
  const unbegun = waiting.splice(0).map((r) => r.row);
  leases.release(unbegun);
  await giveBack(connection.db, unbegun);
  if (straggling.size > STRAGGLERS) await Promise.race(straggling);
  if (!straggling.has(all)) await all;
  // What has come back waits for the service: nothing is to be done about it just now.
  return unready ? 0 : taken;
}

/** Waits for work, but not beyond a moment of the system clock. */
async function atMost(work: Promise<void>, until: number): Promise<void> {
  if (until === Infinity) return work;
  let timer: NodeJS.Timeout | undefined;
  const over = new Promise<void>((resolve) => {
    timer = setTimeout(resolve, Math.max(0, until - Date.now()));
  });
  await Promise.race([work, over]).finally(() => clearTimeout(timer));
}
