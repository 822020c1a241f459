import SMTPConnection from 'nodemailer/lib/smtp-connection';

/** What the receiving server said. */
export type Delivery =
  | { kind: 'accepted'; answer: string }
  /** 4xx, or no answer at all: try again later. */
  | { kind: 'later'; answer: string }
  /** 5xx: this address does not take mail. */
  | { kind: 'refused'; answer: string };

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

  async deliver(from: string, to: string, message: string): Promise<Delivery> {
    let connection: SMTPConnection;
    try {
      connection = this.#idle.pop() ?? (await this.#open());
    } catch (error) {
      return { kind: 'later', answer: (error as Error).message };
    }
    return new Promise((resolve) => {
      let settled = false;
      const settle = (delivery: Delivery, keep: boolean) => {
        if (settled) return;
        settled = true;
        connection.removeAllListeners('error');
        connection.on('error', () => undefined);
        if (keep) this.#idle.push(connection);
        else connection.close();
        resolve(delivery);
      };
      connection.once('error', (error: Error) => settle({ kind: 'later', answer: error.message }, false));
      connection.once('end', () => settle({ kind: 'later', answer: 'The connection was closed.' }, false));
      connection.send({ from, to: [to] }, Buffer.from(message, 'latin1'), (error, info) => {
        connection.removeAllListeners('end');
        if (!error) return settle({ kind: 'accepted', answer: info.response }, true);
        const smtp = error as Error & { responseCode?: number; response?: string };
        const answer = smtp.response ?? smtp.message;
        if (smtp.responseCode === undefined) return settle({ kind: 'later', answer }, false);
        // The session is clean again only after RSET (RFC 5321, 4.1.1.5).
        connection.reset(() =>
          settle({ kind: smtp.responseCode && smtp.responseCode >= 500 ? 'refused' : 'later', answer }, true),
        );
      });
    });
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
