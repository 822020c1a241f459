import { HOUR } from '@ascenso/core';
import { simpleParser } from 'mailparser';
import request from 'supertest';
import { expect, test } from 'vitest';
import { sequenceNumbers } from '../src/db/numbers.ts';
import { emailStep, FRIDAY_NOON, useWorld, waitStep } from './support/world.ts';

const world = useWorld();
const DAY = 24 * HOUR;

test('a person joins by the intake, gets both emails at the right times, opens, clicks and unsubscribes', async () => {
  const first = emailStep('Guide delivery', {
    subject: 'Your guide, {{ subscriber.first_name | default: "reader" }} 📖',
  });
  const second = emailStep('Three papers');
  const third = emailStep('Kit offer');
  const id = await world.live({ steps: [first, waitStep(1), second, waitStep(2), third] });

  await request(world.app)
    .post('/intake/subscribers')
    .set('Authorization', `Bearer ${world.key}`)
    .send({ email: 'Marta@readers.example', attributes: { first_name: 'Marta' }, lists: ['Workshop letters'] })
    .expect(200);
  await world.ahead(FRIDAY_NOON + 3 * HOUR);
  await world.ahead(FRIDAY_NOON + DAY + HOUR);
  const mails = await Promise.all(
    world.mailbox.store.summaries.map((s) => simpleParser(world.mailbox.store.source(s))),
  );
  expect(mails.map((m) => [m.subject, m.date?.getTime()])).toEqual([
    ['Your guide, Marta 📖', FRIDAY_NOON],
    ['Three papers', FRIDAY_NOON + DAY],
  ]);

  const html = String(mails[1]?.html);
  const pixel = /\/o\/[\w-]+\.gif/.exec(html)?.[0] as string;
  const link = /\/c\/[\w-]+\/0/.exec(html)?.[0] as string;
  await request(world.app).get(pixel).expect(200).expect('Content-Type', 'image/gif');
  await request(world.app).get(link).expect(302).expect('Location', 'https://foldwell.example/kits');
  const unsubscribe = String(
    (mails[1]?.headers.get('list') as { unsubscribe?: { url: string } }).unsubscribe?.url,
  ).replace('http://ascenso.test', '');
  await request(world.app).get(unsubscribe).expect(200);
  expect((await world.person('marta@readers.example'))?.mail_status).toBe('ok');
  await request(world.app).post(unsubscribe).type('form').send('List-Unsubscribe=One-Click').expect(200);
  await world.ahead(FRIDAY_NOON + 5 * DAY);

  expect(world.mail()).toHaveLength(2);
  expect((await world.person('marta@readers.example'))?.mail_status).toBe('unsubscribed');
  const numbers = await sequenceNumbers(world.connection.db, world.ws, id, null);
  expect(numbers.steps[second.id]).toMatchObject({ sent: 1, delivered: 1, opened: 1, clicked: 1, left: 1, here: 0 });
  expect((await world.trace('marta@readers.example')).map((t) => t.code)).toEqual([
    'entered',
    'email-sent',
    'wait-begun',
    'email-sent',
    'wait-begun',
    'mail-stopped',
  ]);
});
