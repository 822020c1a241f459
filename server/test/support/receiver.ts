import type { AddressInfo } from 'node:net';
import { SMTPServer, type SMTPServerOptions } from 'smtp-server';

/** A receiving server that keeps what it took, but for what `options` say; closed by `close`. */
export async function startReceiver(options: SMTPServerOptions = {}, port = 0, host = '127.0.0.1') {
  const taken: string[] = [];
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    disableReverseLookup: true,
    closeTimeout: 10,
    onData: (stream, _session, done) => {
      let text = '';
      stream.on('data', (d: Buffer) => (text += d.toString('latin1')));
      stream.on('end', () => {
        taken.push(text);
        done();
      });
    },
    ...options,
  });
  server.on('error', () => undefined);
  await new Promise<void>((resolve) => server.listen(port, host, resolve));
  return { server, taken, port: (server.server.address() as AddressInfo).port, close: () => server.close() };
}
