import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import { businessNow } from '../app/clock.ts';
import type { Db } from '../db/connect.ts';
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

export interface Inbox {
  port: number;
  close: () => Promise<void>;
}

/**
 * The door by which mail comes back (SMTP): reports of delivery to the return paths of our emails, complaints to them or to
 * feedback@. Any other address is not here. A message is taken only once what it says has been written.
 */
export async function openInbox(
  { db, secret, reader, onError }: { db: Db; secret: string; reader: ReportReader; onError: (error: unknown) => void },
  host: string,
  port: number,
): Promise<Inbox> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
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
  const key = report && keyOf(secret, [...to, ...report.named]);
  // A report of nothing of ours, or one that says nothing: it is taken, so that nobody tries it again.
  if (!report || !key) return;
  const now = await businessNow(db);
  if (report.kind === 'letter') await wroteBack(db, key, report, now);
  else if (report.kind === 'bounce') await cameBack(db, key, report, now);
  else if (report.type === 'opt-out') await optedOut(db, key, now);
  else await calledSpam(db, key, now);
}
