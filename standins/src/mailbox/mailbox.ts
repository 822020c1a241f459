import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';
import { staysOnTheLine } from '../keeping.ts';
import { arf, bounceOf, dsn, sendBack } from './returning.ts';
import { MessageStore, type Summary } from './store.ts';

export interface Mailbox {
  smtpPort: number;
  httpPort: number;
  store: MessageStore;
  close: () => Promise<void>;
}

/** Reads one header of a message, unfolded. */
export function headerOf(source: string, name: string): string {
  const head = source.slice(0, source.indexOf('\r\n\r\n') + 2);
  const match = new RegExp(`^${name}:[ \\t]*((?:.|\\r\\n[ \\t])*?)\\r\\n(?![ \\t])`, 'im').exec(head);
  return (match?.[1] ?? '').replace(/\r\n[ \t]/g, ' ').trim();
}

/**
 * The simulated mail world: takes everything by SMTP, keeps it, and shows it over HTTP. Addresses at gone.example do
 * not exist (550); those at busy.example are busy at the first try (451). What goes to left.example and full.example is taken
 * and comes back by mail: for good, and as full. A reader who calls a message spam has a report sent (POST /complain/ID).
 */
export async function startMailbox(options: {
  folder: string;
  smtpPort: number;
  httpPort: number;
  /** Port of loopback on which returned mail is taken; without one nothing comes back. */
  returnPort?: number;
}): Promise<Mailbox> {
  const store = new MessageStore(options.folder);
  const tried = new Set<string>();
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    disableReverseLookup: true,
    hideSize: true,
    onRcptTo: (address, _session, callback) => {
      const domain = address.address.split('@')[1]?.toLowerCase();
      if (domain === 'gone.example')
        return callback(Object.assign(new Error('5.1.1 No such mailbox here'), { responseCode: 550 }));
      if (domain === 'busy.example' && !tried.has(address.address)) {
        tried.add(address.address);
        return callback(Object.assign(new Error('4.2.1 Mailbox busy, try again later'), { responseCode: 451 }));
      }
      callback();
    },
    onData: (stream, session, callback) => {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('end', () => {
        const source = Buffer.concat(chunks);
        const to = session.envelope.rcptTo[0]?.address ?? '';
        const from = session.envelope.mailFrom ? session.envelope.mailFrom.address : '';
        const text = keepMessage(store, source, from, to);
        callback();
        const back = bounceOf(to);
        if (back && from) giveBack(options.returnPort, from, dsn({ to, from, ...back, original: text }));
      });
    },
  });
  await new Promise<void>((resolve, reject) => {
    smtp.once('error', reject);
    smtp.listen(options.smtpPort, '127.0.0.1', resolve);
  });
  // From here on an error is one of a connection.
  smtp.on('error', () => undefined);
  const calls: Call[] = [];
  const http = createServer((req, res) => {
    const spam = /^\/complain\/(\d+)$/.exec(req.url ?? '')?.[1];
    if (req.method === 'POST' && spam) {
      const message = store.summaries[Number(spam) - 1];
      const path = message?.path ?? '';
      if (message && path)
        giveBack(
          options.returnPort,
          path,
          arf({ to: message.to, from: path, original: store.source(message).toString('latin1') }),
        );
      res.writeHead(message && path ? 204 : 404).end();
      return;
    }
    if (req.method === 'POST' && req.url === '/fill') {
      fill(store, req, res);
      return;
    }
    if (req.method === 'POST') {
      keepCall(req, calls, res);
      return;
    }
    answer(store, calls, new URL(req.url ?? '/', 'http://mailbox'))
      .then((body) => {
        res.writeHead(body === null ? 404 : 200, { 'Content-Type': 'application/json' });
        res.end(JSON.stringify(body ?? { error: 'not found' }));
      })
      .catch(() => res.writeHead(500).end());
  });
  await new Promise<void>((resolve) => staysOnTheLine(http).listen(options.httpPort, '127.0.0.1', resolve));
  return {
    smtpPort: (smtp.server.address() as AddressInfo).port,
    httpPort: (http.address() as AddressInfo).port,
    store,
    close: async () => {
      await Promise.all([closeHttp(http), new Promise<void>((resolve) => smtp.close(resolve))]);
      store.close();
    },
  };
}

/** Sends a report back behind the answer: nobody waits for it, and one that is lost is lost. */
function giveBack(port: number | undefined, to: string, report: string): void {
  sendBack(port, to, report).catch(() => undefined);
}

/** Keeps a message as it came; answers its source as text. */
function keepMessage(store: MessageStore, source: Buffer, path: string, to: string): string {
  const text = source.toString('latin1');
  store.add(source, {
    path,
    to,
    from: headerOf(text, 'From'),
    subject: headerOf(text, 'Subject'),
    at: Date.parse(headerOf(text, 'Date')),
    messageId: headerOf(text, 'Message-ID'),
  });
  return text;
}

/** Takes messages of a history that is brought back: they have been delivered long ago, and nothing comes of them. */
function fill(store: MessageStore, req: IncomingMessage, res: ServerResponse): void {
  const chunks: Buffer[] = [];
  req.on('data', (chunk: Buffer) => chunks.push(chunk));
  req.on('end', () => {
    const messages = JSON.parse(Buffer.concat(chunks).toString()) as { path: string; to: string; source: string }[];
    for (const { path, to, source } of messages) keepMessage(store, Buffer.from(source, 'latin1'), path, to);
    res.writeHead(204).end();
  });
}

const closeHttp = (server: Server) =>
  new Promise<void>((resolve) => {
    server.close(() => resolve());
    server.closeAllConnections();
  });

/** A webhook call as it came. */
export interface Call {
  path: string;
  headers: Record<string, string>;
  body: string;
  at: number;
}
const KEPT_CALLS = 200;

/** Another machine's door: takes every call under /hooks and keeps the last ones. */
function keepCall(req: IncomingMessage, calls: Call[], res: ServerResponse): void {
  const chunks: Buffer[] = [];
  req.on('data', (chunk: Buffer) => chunks.push(chunk));
  req.on('end', () => {
    const headers = Object.fromEntries(Object.entries(req.headers).map(([k, v]) => [k, String(v)]));
    calls.push({ path: req.url ?? '', headers, body: Buffer.concat(chunks).toString('utf8'), at: Date.now() });
    calls.splice(0, calls.length - KEPT_CALLS);
    res.writeHead(204).end();
  });
}

/** The newest messages to an address that holds `q`, of those before a message. */
function newest(store: MessageStore, asked: URLSearchParams, limit: number): Summary[] {
  const q = (asked.get('q') ?? '').toLowerCase();
  const found: Summary[] = [];
  for (let n = Number(asked.get('before') ?? store.summaries.length + 1) - 2; n >= 0 && found.length < limit; n--) {
    const summary = store.summaries[n];
    if (summary?.to.toLowerCase().includes(q)) found.push(summary);
  }
  return found;
}

async function readable(store: MessageStore, s: Summary) {
  const mail = await PostalMime.parse(store.source(s));
  return {
    id: s.id,
    to: s.to,
    from: mail.from?.name || mail.from?.address || s.from,
    subject: mail.subject ?? '',
    at: s.at,
    mail,
  };
}

/**
 * `/hooks` the calls received, `/index?q=&limit=&before=N` ids newest first, `/messages?ids=1,2` those, `/messages?q=&limit=`
 * newest first, `/messages?after=N` raw ones in order, `/messages/N` one in full.
 */
async function answer(store: MessageStore, calls: readonly Call[], url: URL): Promise<unknown> {
  if (url.pathname === '/hooks') return { calls: [...calls].reverse() };
  const one = /^\/messages\/(\d+)$/.exec(url.pathname);
  if (one) {
    const summary = store.summaries[Number(one[1]) - 1];
    if (!summary) return null;
    const { mail, ...row } = await readable(store, summary);
    const unsubscribe =
      /<([^<>]+)>/.exec(mail.headers.find((h) => h.key === 'list-unsubscribe')?.value ?? '')?.[1] ?? null;
    return {
      ...row,
      messageId: summary.messageId,
      html: mail.html ?? null,
      text: mail.text ?? null,
      source: store.source(summary).toString('utf8'),
      unsubscribe,
    };
  }
  const limit = Number(url.searchParams.get('limit') ?? 50);
  if (url.pathname === '/index')
    return { messages: newest(store, url.searchParams, limit).map(({ id, messageId }) => ({ id, messageId })) };
  if (url.pathname !== '/messages') return null;
  const after = url.searchParams.get('after');
  if (after !== null)
    return {
      messages: store.summaries
        .slice(Number(after), Number(after) + limit)
        .map((s) => ({ id: s.id, to: s.to, at: s.at, source: store.source(s).toString('utf8') })),
    };
  const ids = url.searchParams.get('ids');
  const last =
    ids === null
      ? newest(store, url.searchParams, limit)
      : ids.split(',').flatMap((id) => store.summaries[Number(id) - 1] ?? []);
  const messages = await Promise.all(last.map((s) => readable(store, s)));
  return { messages: messages.map(({ mail: _, ...row }) => row) };
}
