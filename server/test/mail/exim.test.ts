import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { SmtpTransport } from '../../src/mail/transport.ts';
import { freePort } from '../../../scripts/lib/ports.mjs';
import { selfSigned } from '../support/certificate.ts';
import { until } from '../support/killing.ts';

// Debian's own mail server (exim4), with TLS and a login, on loopback: what it keeps in its queue is read as files.
const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-exim-'));
let exim: ChildProcess;
let port = 0;
let cert = '';

const isOpen = (on: number) =>
  new Promise<boolean>((resolve) => {
    const socket = net.connect(on, '127.0.0.1');
    socket.once('connect', () => resolve(true)).once('error', () => resolve(false));
    socket.once('connect', () => socket.destroy());
  });

beforeAll(async () => {
  const files = selfSigned(folder);
  cert = files.cert;
  for (const name of ['spool', 'log']) mkdirSync(path.join(folder, name));
  // Exim hands its work to a user of its own.
  for (const name of [folder, ...readdirSync(folder).map((n) => path.join(folder, n))]) chmodSync(name, 0o777);
  chmodSync(files.key, 0o644);
  const config = path.join(folder, 'exim.conf');
  writeFileSync(
    config,
    `spool_directory = ${folder}/spool
log_file_path = ${folder}/log/%slog
pid_file_path = ${folder}/pid
primary_hostname = mail.readers.example
domainlist local_domains = readers.example
acl_smtp_rcpt = rcpt
tls_advertise_hosts = *
tls_certificate = ${files.cert}
tls_privatekey = ${files.key}
auth_advertise_hosts = \${if eq{$tls_in_cipher}{}{}{*}}
queue_only
begin acl
rcpt:
  deny !authenticated = *
       message = log in first
  deny local_parts = nobody
       message = unknown user
  accept domains = +local_domains
  deny message = no relaying
begin authenticators
plain:
  driver = plaintext
  public_name = PLAIN
  server_condition = \${if and{{eq{$auth2}{ines}}{eq{$auth3}{linen}}}}
  server_set_id = $auth2
`,
    { mode: 0o644 },
  );
  port = await freePort();
  exim = spawn('/usr/sbin/exim4', ['-C', config, '-bdf', '-oX', `127.0.0.1.${port}`], { stdio: 'pipe' });
  await until('it listens', () => isOpen(port), 20_000);
});
afterAll(() => {
  exim.kill('SIGTERM');
  rmSync(folder, { recursive: true, force: true });
});

const to = (address: string, login = 'ines:linen') => {
  const transport = new SmtpTransport(`smtp://${login}@localhost:${port}?ca=${cert}&name=out.foldwell.example`);
  return transport
    .deliver(
      'ines@foldwell.example',
      address,
      'From: ines@foldwell.example\r\nSubject: Fold\r\n\r\n.Along\r\nthe grain.\r\n',
    )
    .finally(() => transport.close());
};

test('takes a message after STARTTLS and a login, dots and all', async () => {
  const delivery = await to('marta@readers.example');
  expect(delivery).toMatchObject({ kind: 'accepted', answer: expect.stringMatching(/^250/) });
  // A message of the queue is two files: its head and envelope, and its body (Exim specification, "Format of spool files").
  const queue = path.join(folder, 'spool/input');
  const kept = readdirSync(queue).map((name) => readFileSync(path.join(queue, name), 'latin1'));
  expect(kept).toHaveLength(2);
  const all = kept.join('\n');
  expect(all).toContain('\n.Along\nthe grain.\n');
  expect(all).toContain('\nmarta@readers.example\n');
  // What it says of how it came: our name, encrypted, logged in (RFC 3848).
  expect(all).toMatch(/Received: from [^\n]*out\.foldwell\.example/);
  expect(all).toMatch(/with esmtpsa/);
});

test.each([
  ['an address that is not there', 'nobody@readers.example', 'ines:linen', { kind: 'refused', fault: 'mailbox' }],
  ['a wrong password', 'marta@readers.example', 'ines:cotton', { kind: 'unready', stage: 'login' }],
])('%s is read as what it is about', async (_what, address, login, expected) => {
  expect(await to(address, login)).toMatchObject(expected);
});
