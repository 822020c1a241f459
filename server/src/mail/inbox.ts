import type { AddressInfo } from 'node:net';
import { sql } from 'drizzle-orm';
import { generate } from 'selfsigned';
import { SMTPServer } from 'smtp-server';
import { businessNow } from '../app/clock.ts';
import type { Db } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { calledSpam, cameBack, optedOut } from '../people/returned.ts';
import { wroteBack } from '../people/writing-back.ts';
import { Unreadable, type ReportReader } from './reading-reports.ts';
import { readReturnPath } from './return-path.ts';
import { readSend, type SendKey } from './token.ts';

/** A report with the head of the original is a few kB; with the whole of it, as much as that. */
const MOST_BYTES = 2_000_000;

/** How long a connection may say nothing, ms. */
const SILENT_MS = 5 * 60_000;

/** The address for complaints that providers are given beside the return paths. */
const FEEDBACK = /^(feedback|abuse|fbl)@/i;

/** Which of our emails a report is about: only what is signed by us counts. */
function keyOf(secret: string, named: readonly string[]): SendKey | null {
  for (const name of named) {
    const key = readReturnPath(secret, name) ?? readSend(secret, /\/u\/([^/?#>]+)/.exec(name)?.[1] ?? '', 'u');
    if (key) return key;
  }
  return null;
}

/**
 * Which of our emails a complaint is about that names it by its Message-ID alone (some providers leave nothing else of it). The
 * id is 74 random bits that nobody but its reader, and their provider, has seen.
 */
async function sendCalled(db: Db, named: readonly string[]): Promise<SendKey | null> {
  const ids = named.flatMap((name) => /^<([0-9a-f-]{36})@/i.exec(name)?.[1]?.toLowerCase() ?? []);
  if (ids.length === 0) return null;
  const found = await firstRow<SendKey>(
    db,
    sql`select s.workspace_id as "workspaceId", s.id as "sendId" from workspaces w join sends s on s.workspace_id = w.id and s.id = any (${sql.param(ids)}::uuid[]) limit 1`,
  );
  return found ?? null;
}

export interface Inbox {
  port: number;
  close: () => Promise<void>;
}

export interface InboxNeeds {
  db: Db;
  secret: string;
  reader: ReportReader;
  /** Certificate and key, PEM; without them one is made at each start. */
  tls?: { cert: Buffer; key: Buffer } | null;
  onError: (error: unknown) => void;
}

/** A certificate that proves nothing: whoever sends mail takes TLS that is offered without asking whose it is (RFC 7435). */
async function ownCertificate(): Promise<{ cert: string; key: string }> {
  const made = await generate([{ name: 'commonName', value: 'inbox' }], { keyType: 'ec', curve: 'P-256' });
  return { cert: made.cert, key: made.private };
}

/**
 * The door by which mail comes back (SMTP): reports of delivery to the return paths of our emails, complaints to them or to
 * feedback@. Any other address is not here. A message is taken only once what it says has been written.
 */
export async function openInbox(
  { db, secret, reader, tls, onError }: InboxNeeds,
  host: string,
  port: number,
): Promise<Inbox> {
  const server = new SMTPServer({
    ...(tls ?? (await ownCertificate())),
    authOptional: true,
    disabledCommands: ['AUTH'],
    disableReverseLookup: true,
    size: MOST_BYTES,
    // Whoever says nothing for five minutes is let go (RFC 5321, 4.5.3.2.7), so that silent ones keep nobody out.
    socketTimeout: SILENT_MS,
    maxClients: 200,
    onRcptTo: ({ address }, _session, callback) => {
      if (readReturnPath(secret, address) || FEEDBACK.test(address)) return callback();
      callback(Object.assign(new Error('5.1.1 There is no such mailbox here'), { responseCode: 550 }));
    },
    onData: (stream, session, callback) => {
      const chunks: Buffer[] = [];
      let bytes = 0;
      stream.on('data', (chunk: Buffer) => {
        bytes += chunk.length;
        if (bytes <= MOST_BYTES) chunks.push(chunk);
      });
      stream.on('end', () => {
        if (bytes > MOST_BYTES)
          return callback(Object.assign(new Error('5.3.4 That is too large for a report'), { responseCode: 552 }));
        const to = session.envelope.rcptTo.map((r) => r.address);
        takeMessage(db, secret, reader, Buffer.concat(chunks), to).then(
          () => callback(),
          (error: unknown) => {
            onError(error);
            // Sent again it would be as it is.
            if (error instanceof Unreadable)
              return callback(Object.assign(new Error('5.6.0 That cannot be read as mail'), { responseCode: 554 }));
            callback(Object.assign(new Error('4.3.0 Try again later'), { responseCode: 451 }));
          },
        );
      });
    },
  });
  server.on('error', onError);
  await new Promise<void>((resolve, reject) => {
    server.server.once('error', reject);
    server.listen(port, host, () => resolve());
  });
  return {
    port: (server.server.address() as AddressInfo).port,
    close: () => new Promise((resolve) => server.close(resolve)),
  };
}

async function takeMessage(
  db: Db,
  secret: string,
  reader: ReportReader,
  source: Buffer,
  to: readonly string[],
): Promise<void> {
  const report = await reader.read(source);
  if (!report) return;
  const signed = keyOf(secret, [...to, ...report.named]);
  const key = signed ?? (report.kind === 'complaint' ? await sendCalled(db, report.named) : null);
  // A report of nothing of ours, or one that says nothing: it is taken, so that nobody tries it again.
  if (!key) return;
  const now = await businessNow(db);
  if (report.kind === 'letter') await wroteBack(db, key, report, now);
  else if (report.kind === 'bounce') await cameBack(db, key, report, now);
  else if (report.type === 'opt-out') await optedOut(db, key, now);
  else await calledSpam(db, key, now);
}
