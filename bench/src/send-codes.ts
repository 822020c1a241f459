import { sql } from 'drizzle-orm';
import { blankOffer } from '@ascenso/core';
import { installationSecret } from '../../server/src/app/clock.ts';
import { newId } from '../../server/src/app/ids.ts';
import { advanceRound } from '../../server/src/engine/advance-loop.ts';
import { LEASE_MS } from '../../server/src/engine/settings.ts';
import { SmtpTransport } from '../../server/src/mail/transport.ts';
import { letter } from './support/letter.ts';
import { startMailbox } from './support/mailbox.ts';
import { inTurn } from './support/measure.ts';
import { addPeople, enterEverybody, live, NOW, openWorld, sendAll } from './support/world.ts';

const PEOPLE = 1500;

/**
 * Emails per second from their decision to the mail server, each with a code that is assigned on the way, against the same
 * email without an offer.
 */
export async function sendCodes(): Promise<void> {
  const { connection, ws, close } = await openWorld();
  const { db } = connection;
  const mailbox = await startMailbox();
  const transport = new SmtpTransport(`smtp://127.0.0.1:${mailbox.port}`);
  try {
    const offer = newId();
    await db.execute(
      sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${ws}, ${offer}, ${JSON.stringify({ ...blankOffer(), name: 'Kit offer' })}::jsonb, 'x', 0)`,
    );
    const step = (id: string, more: object) => ({
      id,
      on: true,
      note: '',
      kind: 'email' as const,
      name: id,
      email: { ...letter(), ...more },
      window: null,
      forWhom: null,
      thenTag: '',
      thenPoints: 0,
    });
    const coded = await live(connection, ws, [step('coded', { offer, preview: 'Your code: {{ offer.code }}' })]);
    const plain = await live(connection, ws, [step('plain', { preview: 'Your code: none' })]);
    await addPeople(connection, ws, PEOPLE);
    const settings = {
      transport,
      base: 'http://ascenso.test',
      secret: await installationSecret(db),
      parallel: 4,
      leaseMs: LEASE_MS,
      allowedHosts: [],
    };
    const side = (sequence: string, first: string) => ({
      before: async () => {
        await db.execute(sql`truncate offer_grants, offer_codes`);
        await db.execute(sql`update offers set made = 0`);
        await enterEverybody(connection, ws, sequence, first);
      },
      run: async () => {
        while ((await advanceRound(connection, NOW)) > 0);
        return sendAll(connection, settings, NOW);
      },
    });
    await inTurn(
      'emails with a code of their own (against the same without an offer)',
      'messages/s',
      side(coded, 'coded'),
      side(plain, 'plain'),
      3,
    );
  } finally {
    transport.close();
    mailbox.stop();
    await close();
  }
}
