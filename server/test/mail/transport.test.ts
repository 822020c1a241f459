import type { SMTPServerOptions } from 'smtp-server';
import { afterEach, expect, test } from 'vitest';
import { SmtpTransport } from '../../src/mail/transport.ts';
import { startReceiver } from '../support/receiver.ts';

const MESSAGE = 'From: ines@foldwell.example\r\nSubject: Fold\r\n\r\nAlong the grain.\r\n';
const closing: (() => void)[] = [];
afterEach(() => closing.splice(0).forEach((close) => close()));

async function receiver(options: SMTPServerOptions = {}, port = 0) {
  const started = await startReceiver(options, port);
  closing.push(started.close);
  return started;
}

function transportTo(port: number): SmtpTransport {
  const transport = new SmtpTransport(`smtp://127.0.0.1:${port}`);
  closing.push(() => transport.close());
  return transport;
}

const deliver = (t: SmtpTransport) => t.deliver('ines@foldwell.example', 'marta@readers.example', MESSAGE);

test('a connection that the server closed while it lay idle costs nothing: the next message goes out at once', async () => {
  const { server, taken, port } = await receiver();
  const transport = transportTo(port);
  expect((await deliver(transport)).kind).toBe('accepted');
  for (const connection of (server as unknown as { connections: Set<{ _socket: { destroy(): void } }> }).connections)
    connection._socket.destroy();
  expect((await deliver(transport)).kind).toBe('accepted');
  expect(taken).toEqual([MESSAGE, MESSAGE]);
});

test('a connection cut in the middle of a message is not tried again by itself: the server may have it', async () => {
  let cuts = 0;
  const { port } = await receiver({
    onData: (stream, session) => {
      cuts++;
      stream.once('data', () => {
        const { server } = held;
        for (const c of (server as unknown as { connections: Set<{ id: string; _socket: { destroy(): void } }> })
          .connections)
          if (c.id === session.id) c._socket.destroy();
      });
    },
  }).then((r) => (held = r));
  const delivery = await deliver(transportTo(port));
  expect(delivery.kind).toBe('later');
  expect(cuts).toBe(1);
});
let held: Awaited<ReturnType<typeof receiver>>;

test('5xx refuses, 4xx and silence mean later, and the session is clean for the next message', async () => {
  const answers = [550, 451, 0];
  const { taken, port } = await receiver({
    onRcptTo: (_address, _session, done) => {
      const responseCode = answers.shift();
      done(responseCode ? Object.assign(new Error('no'), { responseCode }) : undefined);
    },
  });
  const transport = transportTo(port);
  expect((await deliver(transport)).kind).toBe('refused');
  expect((await deliver(transport)).kind).toBe('later');
  expect((await deliver(transport)).kind).toBe('accepted');
  expect(taken).toHaveLength(1);
  expect((await deliver(transportTo(1))).kind).toBe('unready');
});
