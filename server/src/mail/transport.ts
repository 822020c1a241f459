import { Readable } from 'node:stream';
import SMTPConnection from 'nodemailer/lib/smtp-connection';

/** What the receiving server said. */
export type Delivery =
  | { kind: 'accepted'; answer: string }
  /** 4xx, or no answer at all: try again later. */
  | { kind: 'later'; answer: string }
  /** 5xx: this address does not take mail. */
  | { kind: 'refused'; answer: string };

/** A message that tells whether anything of it has been asked for yet. */
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

/** Hands messages over by SMTP on a few connections that are kept open. */
export class SmtpTransport {
  readonly #host: string;
  readonly #port: number;
  readonly #idle: SMTPConnection[] = [];

  constructor(url: string) {
    const parsed = new URL(url);
    this.#host = parsed.hostname;
    this.#port = Number(parsed.port || 25);
  }

  /** Hands one message (latin1 text) over, and answers what the receiving server said. */
  async deliver(from: string, to: string, message: string): Promise<Delivery> {
    for (;;) {
      const kept = this.#idle.pop();
      let connection: SMTPConnection;
      try {
        connection = kept ?? (await this.#open());
      } catch (error) {
        return { kind: 'later', answer: (error as Error).message };
      }
      const delivery = await this.#hand(connection, from, to, message);
      // The server had hung up on a connection that lay idle: nothing was handed over, so another one may try.
      if (delivery.kind !== 'hung-up') return delivery;
      if (!kept) return { kind: 'later', answer: delivery.answer };
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
      const settle = (delivery: Delivery, keep: boolean) => {
        if (settled) return;
        settled = true;
        connection.removeAllListeners('error');
        connection.removeAllListeners('end');
        if (keep) this.#keep(connection);
        else connection.close();
        resolve(delivery);
      };
      const lost = (answer: string) => settle({ kind: content.begun ? 'later' : 'hung-up', answer } as Delivery, false);
      connection.removeAllListeners('error');
      connection.removeAllListeners('end');
      connection.once('error', (error: Error) => lost(error.message));
      connection.once('end', () => lost('The connection was closed.'));
      connection.send({ from, to: [to] }, content, (error, info) => {
        if (!error) return settle({ kind: 'accepted', answer: info.response }, true);
        const smtp = error as Error & { responseCode?: number; response?: string };
        const answer = smtp.response ?? smtp.message;
        if (smtp.responseCode === undefined) return lost(answer);
        // The session is clean again only after RSET (RFC 5321, 4.1.1.5).
        connection.reset(() =>
          settle({ kind: smtp.responseCode && smtp.responseCode >= 500 ? 'refused' : 'later', answer }, true),
        );
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

  #open(): Promise<SMTPConnection> {
    return new Promise((resolve, reject) => {
      const connection = new SMTPConnection({
        host: this.#host,
        port: this.#port,
        ignoreTLS: true,
        connectionTimeout: 10_000,
        name: 'ascenso',
      });
      connection.once('error', reject);
      connection.connect(() => {
        connection.removeListener('error', reject);
        resolve(connection);
      });
    });
  }

  close(): void {
    for (const connection of this.#idle.splice(0)) connection.quit();
  }
}
