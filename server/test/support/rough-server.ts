import { createHash } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import type { Chance } from './chance.ts';

/** One message as the receiving server saw it. */
export interface Receipt {
  messageId: string;
  to: string;
  subject: string;
  /** When the recipient was named, ms on the system clock: the sender had decided by then. */
  at: number;
  sha256: string;
  answer: 'taken' | 'refused' | 'hung';
}

export interface RoughServer {
  url: string;
  receipts: Receipt[];
  /** Addresses that were told not to exist. */
  gone: Set<string>;
  /** From now on it takes everything at once. */
  calmDown: () => void;
  close: () => Promise<void>;
}

const header = (text: string, name: string) => new RegExp(`^${name}: (.*)$`, 'im').exec(text)?.[1]?.trim() ?? '';

/** A receiving server that is slow, greylists, refuses and hangs at random. */
export async function startRoughServer(chance: Chance): Promise<RoughServer> {
  const receipts: Receipt[] = [];
  const gone = new Set<string>();
  const greylisted = new Set<string>();
  let calm = false;
  const refusal = (code: number, text: string) => Object.assign(new Error(text), { responseCode: code });
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    disableReverseLookup: true,
    hideSize: true,
    closeTimeout: 10,
    onRcptTo: ({ address }, session, done) => {
      (session as unknown as { named: number }).named = Date.now();
      if (calm) return gone.has(address) ? done(refusal(550, '5.1.1 No such mailbox here')) : done();
      if (gone.has(address) || (chance.is(0.005) && gone.add(address)))
        return done(refusal(550, '5.1.1 No such mailbox here'));
      if (!greylisted.has(address) && chance.is(0.05)) {
        greylisted.add(address);
        return done(refusal(451, '4.7.1 Greylisted, come back later'));
      }
      done();
    },
    onData: (stream, session, done) => {
      const chunks: Buffer[] = [];
      stream.on('data', (c: Buffer) => chunks.push(c));
      stream.on('end', () => {
        const source = Buffer.concat(chunks);
        const text = source.toString('latin1');
        const receipt: Receipt = {
          messageId: header(text, 'Message-ID'),
          to: session.envelope.rcptTo[0]?.address ?? '',
          subject: header(text, 'Subject'),
          at: (session as unknown as { named: number }).named,
          sha256: createHash('sha256').update(source).digest('hex'),
          answer: 'taken',
        };
        receipts.push(receipt);
        if (!calm && chance.is(0.004)) {
          receipt.answer = 'hung';
          return;
        }
        if (!calm && chance.is(0.01)) {
          receipt.answer = 'refused';
          return done(refusal(554, '5.7.1 Not today'));
        }
        if (calm || chance.is(0.95)) return done();
        setTimeout(() => done(), chance.whole(300, 4_000));
      });
    },
  });
  smtp.on('error', () => undefined);
  await new Promise<void>((resolve) => smtp.listen(0, '127.0.0.1', resolve));
  return {
    url: `smtp://127.0.0.1:${(smtp.server.address() as AddressInfo).port}`,
    receipts,
    gone,
    calmDown: () => (calm = true),
    close: () => new Promise<void>((resolve) => smtp.close(resolve)),
  };
}
