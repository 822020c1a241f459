import { appendFileSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { createTransport } from 'nodemailer';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { headerOf, startMailbox, type Mailbox } from '../src/mailbox/mailbox.ts';
import { MessageStore } from '../src/mailbox/store.ts';

let folder = '';
let mailbox: Mailbox;
beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-mailbox-'));
  mailbox = await startMailbox({ folder, smtpPort: 0, httpPort: 0 });
});
afterAll(async () => {
  await mailbox.close();
  rmSync(folder, { recursive: true, force: true });
});

const send = (to: string, subject = 'Hello') => {
  const transport = createTransport({ host: '127.0.0.1', port: mailbox.smtpPort, ignoreTLS: true });
  return transport.sendMail({ from: 'Inês <ines@foldwell.example>', to, subject, text: 'Fold.', html: '<p>Fold.</p>' });
};
const read = async (address: string): Promise<unknown> =>
  (await fetch(`http://127.0.0.1:${mailbox.httpPort}${address}`)).json();

test('takes mail by SMTP and shows it newest first, by address, and whole', async () => {
  await send('marta@readers.example', 'Grüße 🧵');
  await send('jonas@readers.example');
  expect(await read('/messages')).toMatchObject({
    messages: [{ to: 'jonas@readers.example' }, { subject: 'Grüße 🧵', from: 'Inês' }],
  });
  expect(await read('/messages?q=MARTA')).toMatchObject({ messages: [{ id: 1 }] });
  expect(await read('/index?before=2')).toMatchObject({
    messages: [{ id: 1, messageId: expect.stringMatching(/^<.*>$/) }],
  });
  expect(await read('/messages?ids=2,7')).toMatchObject({ messages: [{ id: 2 }] });
  expect(await read('/messages/1')).toMatchObject({
    subject: 'Grüße 🧵',
    html: expect.stringContaining('<p>Fold.</p>'),
    unsubscribe: null,
  });
  expect(await read('/messages?after=1&limit=10')).toMatchObject({ messages: [{ id: 2 }] });
});

test('refuses an address that does not exist for good, and a busy one only once', async () => {
  await expect(send('x@gone.example')).rejects.toMatchObject({ responseCode: 550 });
  await expect(send('x@busy.example')).rejects.toMatchObject({ responseCode: 451 });
  await send('x@busy.example');
});

test('keeps everything over a restart, and a line cut off by a crash does not hide the rest', () => {
  const own = mkdtempSync(path.join(os.tmpdir(), 'ascenso-store-'));
  const first = new MessageStore(own);
  const about = { to: 'a@readers.example', from: 'b', subject: 's', at: 1, messageId: '<1@x>' };
  first.add(Buffer.from('one'), about);
  first.add(Buffer.from('two'), { ...about, messageId: '<2@x>' });
  first.close();
  appendFileSync(path.join(own, 'index.jsonl'), '{"id":3,"to":"cut o');
  const again = new MessageStore(own);
  expect(again.summaries.map((s) => again.source(s).toString())).toEqual(['one', 'two']);
  again.add(Buffer.from('three'), { ...about, messageId: '<3@x>' });
  again.close();
  const third = new MessageStore(own);
  expect(third.summaries.map((s) => third.source(s).toString())).toEqual(['one', 'two', 'three']);
  third.close();
  rmSync(own, { recursive: true });
});

test('reads a folded header whole, whatever its case', () => {
  expect(headerOf('From: a\r\nsubject: one\r\n two\r\nDate: x\r\n\r\nSubject: not me', 'Subject')).toBe('one two');
});
