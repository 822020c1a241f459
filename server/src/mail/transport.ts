import { connect, type Socket } from 'node:net';
import { Readable } from 'node:stream';
import SMTPConnection from 'nodemailer/lib/smtp-connection';
import { needsUtf8 } from '@ascenso/core';
import { enhancedOf, faultOf, type Fault, type Stage } from './refusal.ts';
import { logIn } from './scram.ts';
import { connectionOptions, readSmtpUrl, type SmtpSettings } from './smtp-url.ts';

/** What the receiving server said. */
export type Delivery =
  | { kind: 'accepted'; answer: string }
  /** The service is away or says no before the message was offered, whoever it is for: nothing was tried. */
  | { kind: 'unready'; stage: Stage; answer: string }
  /** 4xx about this message or its reader, or hung up in between: try again later. */
  | { kind: 'later'; stage: Stage; answer: string }
  /** 5xx, at which stage, and what it is about. */
  | { kind: 'refused'; stage: Stage; fault: Exclude<Fault, 'later' | 'session'>; answer: string }
  /** The whole message was handed over and no answer came: whether it was taken is not known. */
  | { kind: 'unanswered'; answer: string };

/** A message that tells how much of it has been asked for. */
class OnDemand extends Readable {
  begun = false;
  readonly #message: string;

  constructor(message: string) {
    super();
    this.#message = message;
  }

  override _read(): void {
    this.begun = true;
    this.push(Buffer.from(this.#message, 'latin1'));
    this.push(null);
  }
}

/** Stages by the command that nodemailer names in an error. */
const STAGES: Record<string, Stage> = {
  CONN: 'greeting',
  EHLO: 'hello',
  HELO: 'hello',
  LHLO: 'hello',
  STARTTLS: 'tls',
  'MAIL FROM': 'mail',
  'RCPT TO': 'rcpt',
  DATA: 'data',
};
function stageOf(error: SmtpError, begun: boolean): Stage {
  if (begun) return 'message';
  const command = error.command ?? '';
  return STAGES[command] ?? (command.startsWith('AUTH') ? 'login' : 'connect');
}

type SmtpError = Error & { code?: string; command?: string; responseCode?: number; response?: string };

function deliveryOf(error: SmtpError, begun: boolean): Exclude<Delivery, { kind: 'accepted' | 'unanswered' }> {
  // A code that is no refusal was said before it came to one: ours, of a server that does not prove itself.
  const code = error.responseCode !== undefined && error.responseCode >= 400 ? error.responseCode : undefined;
  const answer = (code === undefined ? null : error.response) ?? error.message;
  const stage = stageOf(error, begun);
  if (code === undefined) return begun ? { kind: 'later', stage, answer } : { kind: 'unready', stage, answer };
  const fault = faultOf({ stage, code, enhanced: enhancedOf(code, answer) });
  if (fault === 'session') return { kind: 'unready', stage, answer };
  return fault === 'later' ? { kind: 'later', stage, answer } : { kind: 'refused', stage, fault, answer };
}

/** What nodemailer has read of the answer to EHLO, which its types do not tell. */
const takesUtf8 = (connection: SMTPConnection): boolean =>
  (connection as unknown as { _supportedExtensions: readonly string[] })._supportedExtensions.includes('SMTPUTF8');
const NO_UTF8 = 'The mail service takes no address with letters beyond ASCII before the @ (SMTPUTF8, RFC 6531).';

/** How long a server may take, ms. RFC 5321, 4.5.3.2 asks for ten minutes after the end of a message. */
export interface Patience {
  connectMs: number;
  /** Until the server greets: five minutes (RFC 5321, 4.5.3.2.1). */
  greetMs: number;
  answerMs: number;
}
export const ANSWER_MS = 600_000;
const PATIENT: Patience = { connectMs: 10_000, greetMs: 300_000, answerMs: ANSWER_MS };

/** Hands messages over by SMTP on a few connections that are kept open. */
export class SmtpTransport {
  readonly #settings: SmtpSettings;
  readonly #patience: Patience;
  readonly #idle: SMTPConnection[] = [];

  constructor(url: string, patience: Partial<Patience> = {}) {
    this.#settings = readSmtpUrl(url);
    this.#patience = { ...PATIENT, ...patience };
  }

  /** Hands one message (latin1 text) over, and answers what the receiving server said. */
  async deliver(from: string, to: string, message: string): Promise<Delivery> {
    for (;;) {
      const kept = this.#idle.pop();
      let connection: SMTPConnection;
      try {
        connection = kept ?? (await this.#open());
      } catch (error) {
        return deliveryOf(error as SmtpError, false);
      }
      const delivery = await this.#hand(connection, from, to, message);
      // The server had hung up on a connection that lay idle: nothing was handed over, so another one may try.
      if (delivery.kind !== 'hung-up') return delivery;
      // On a new one it may be this reader whom it does not want to hear of: that is no reason to keep everybody back.
      if (!kept) return { kind: 'later', stage: 'rcpt', answer: delivery.answer };
    }
  }

  #hand(
    connection: SMTPConnection,
    from: string,
    to: string,
    message: string,
  ): Promise<Delivery | { kind: 'hung-up'; answer: string }> {
    return new Promise((resolve) => {
      let settled = false;
      const content = new OnDemand(message);
      const settle = (delivery: Delivery | { kind: 'hung-up'; answer: string }, keep: boolean) => {
        if (settled) return;
        settled = true;
        connection.removeAllListeners('error');
        connection.removeAllListeners('end');
        if (keep) this.#keep(connection);
        else {
          // A connection that is given up may still stumble over what it had under way.
          connection.on('error', () => undefined);
          connection.close();
        }
        resolve(delivery);
      };
      const lost = (error: SmtpError) => {
        const answer = error.response ?? error.message;
        // It had the whole message and says nothing: it may have taken it, so a second try could be a second copy.
        if (content.readableEnded && error.code === 'ETIMEDOUT') return settle({ kind: 'unanswered', answer }, false);
        settle(content.begun ? { kind: 'later', stage: 'message', answer } : { kind: 'hung-up', answer }, false);
      };
      connection.removeAllListeners('error');
      connection.removeAllListeners('end');
      connection.once('error', lost);
      connection.once('end', () => lost(new Error('The connection was closed.')));
      // Such an address stands in no command of a server that does not know it (RFC 6531, 3.2).
      if (needsUtf8(to) && !takesUtf8(connection))
        return settle({ kind: 'refused', stage: 'rcpt', fault: 'email', answer: NO_UTF8 }, true);
      connection.send({ from, to: [to] }, content, (error, info) => {
        if (!error) return settle({ kind: 'accepted', answer: info.response }, true);
        if ((error as SmtpError).responseCode === undefined) return lost(error);
        const delivery = deliveryOf(error, content.begun);
        // The session is clean again only after RSET (RFC 5321, 4.1.1.5).
        connection.reset(() => settle(delivery, true));
      });
    });
  }

  /** Keeps a connection for the next message, until the server hangs up. */
  #keep(connection: SMTPConnection): void {
    const drop = () => {
      const at = this.#idle.indexOf(connection);
      if (at >= 0) this.#idle.splice(at, 1);
    };
    connection.once('end', drop);
    connection.on('error', drop);
    this.#idle.push(connection);
  }

  /** A line to the server: nodemailer's own limit for it would end with the greeting, which may take longer. */
  #dial(): Promise<Socket> {
    const { host, port } = connectionOptions(this.#settings);
    return new Promise((resolve, reject) => {
      const socket = connect({ host: String(host), port: Number(port), timeout: this.#patience.connectMs });
      socket.once('connect', () => {
        socket.removeAllListeners();
        socket.setTimeout(0);
        // Until somebody else listens, what happens to the line must not end the process.
        socket.on('error', () => undefined);
        resolve(socket);
      });
      socket.once('timeout', () => socket.destroy(new Error('Connection timeout')));
      socket.once('error', reject);
    });
  }

  async #open(): Promise<SMTPConnection> {
    const socket = await this.#dial();
    return new Promise((resolve, reject) => {
      const connection = new SMTPConnection({
        ...connectionOptions(this.#settings),
        connection: socket,
        customAuth: { PLAIN: logIn },
        connectionTimeout: this.#patience.greetMs,
        greetingTimeout: this.#patience.greetMs,
        socketTimeout: this.#patience.answerMs,
      });
      // Closed before anybody listened, it would be waited for as long as a greeting may take.
      const closed = () => fail(new Error('The connection was closed.'));
      socket.once('close', closed);
      const fail = (error: Error) => {
        socket.off('close', closed);
        connection.removeAllListeners('error');
        connection.on('error', () => undefined);
        connection.close();
        reject(error);
      };
      const open = () => {
        socket.off('close', closed);
        connection.removeAllListeners('error');
        resolve(connection);
      };
      connection.once('error', fail);
      connection.connect((error) => {
        const { login } = this.#settings;
        if (error) return fail(error);
        if (!login) return open();
        connection.login({ credentials: login }, (refused) => (refused ? fail(refused) : open()));
      });
    });
  }

  close(): void {
    for (const connection of this.#idle.splice(0)) connection.quit();
  }
}
