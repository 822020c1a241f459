import { Liquid } from 'liquidjs';
import { createTransport } from 'nodemailer';
import { advanceRound } from '../../server/src/engine/advance-loop.ts';
import { addressesFor } from '../../server/src/engine/message.ts';
import { LEASE_MS } from '../../server/src/engine/settings.ts';
import { installationSecret } from '../../server/src/app/clock.ts';
import { SmtpTransport } from '../../server/src/mail/transport.ts';
import { startMailbox } from './support/mailbox.ts';
import { inTurn } from './support/measure.ts';
import { asLiquid, context, letter, program } from './support/letter.ts';
import { addPeople, enterEverybody, live, NOW, openWorld, sendAll } from './support/world.ts';

const PEOPLE = 1500;
const PARALLEL = 4;

/** Messages per second from the outbox to a mail server, against liquidjs and nodemailer's pool into the same server. */
export async function send(): Promise<void> {
  const { connection, ws, close } = await openWorld();
  const mailbox = await startMailbox();
  const transport = new SmtpTransport(`smtp://127.0.0.1:${mailbox.port}`);
  const pool = createTransport({
    host: '127.0.0.1',
    port: mailbox.port,
    pool: true,
    maxConnections: PARALLEL,
    maxMessages: Infinity,
    ignoreTLS: true,
  });
  try {
    const sequence = await live(connection, ws, [
      {
        id: 'first',
        on: true,
        note: '',
        kind: 'email',
        name: 'First',
        email: letter(),
        window: null,
        forWhom: null,
        thenTag: '',
        thenPoints: 0,
      },
    ]);
    await addPeople(connection, ws, PEOPLE);
    const settings = {
      transport,
      base: 'http://ascenso.test',
      secret: await installationSecret(connection.db),
      parallel: PARALLEL,
      leaseMs: LEASE_MS,
      allowedHosts: [],
    };
    const p = await program();
    const engine = new Liquid({ ownPropertyOnly: true, outputEscape: 'escape' });
    const plain = new Liquid({ ownPropertyOnly: true });
    const [html, text, subject] = [
      engine.parse(asLiquid(p, p.html)),
      plain.parse(asLiquid(p, p.text)),
      plain.parse(asLiquid(p, p.subject)),
    ];
    const a = addressesFor('http://ascenso.test', () => 'token');
    const addresses = { base: a.base, open: a.open, unsubscribe: a.unsubscribe, link: `${a.base}/c/token` };
    await inTurn(
      `send (${Math.round(p.bytes / 1000)} kB, outbox to SMTP; against liquidjs and a nodemailer pool)`,
      'messages/s',
      {
        before: async () => {
          await enterEverybody(connection, ws, sequence, 'first');
          while ((await advanceRound(connection, NOW)) > 0);
        },
        run: () => sendAll(connection, settings, NOW),
      },
      async () => {
        await Promise.all(
          Array.from({ length: PEOPLE }, async (_, n) => {
            const data = { ...context(n), addresses };
            await pool.sendMail({
              from: 'ines@foldwell.example',
              to: `reader${n}@readers.example`,
              subject: String(plain.renderSync(subject, data)),
              html: String(engine.renderSync(html, data)),
              text: String(plain.renderSync(text, data)),
              textEncoding: 'base64',
            });
          }),
        );
        return PEOPLE;
      },
      3,
    );
  } finally {
    pool.close();
    transport.close();
    mailbox.stop();
    await close();
  }
}
