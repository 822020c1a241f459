import { readFileSync } from 'node:fs';
import { isIP } from 'node:net';
import path from 'node:path';
import ipaddr from 'ipaddr.js';
import { connect, type Connection } from '../db/connect.ts';
import { readPrimary, readReplica, type Reading } from '../db/reading.ts';
import { LEASE_MS, type SendSettings } from '../engine/settings.ts';
import { readSmtpUrl } from '../mail/smtp-url.ts';
import { ANSWER_MS, SmtpTransport } from '../mail/transport.ts';
import { installationSecret } from './clock.ts';
import type { TrustProxy } from './context.ts';

/** Settings from the environment. Every process of the application reads the same ones. */
export interface Config {
  databaseUrl: string;
  /** A streaming replica for what may be a little old, or null: then the database itself is read. */
  readDatabaseUrl: string | null;
  /** A pooler in transaction mode stands before the database. */
  pooled: boolean;
  host: string;
  port: number;
  base: string;
  smtpUrl: string;
  /** Where whoever runs this is told by another way than mail, or null. */
  alertUrl: string | null;
  /** Domain of the addresses that mail comes back to, and the port on which it is taken; null for none. */
  returnDomain: string | null;
  inbox: { host: string; port: number; tls: { cert: Buffer; key: Buffer } | null } | null;
  /** The server that mail leaves the house by; null where it goes to the simulated mailbox. */
  mailTo: string | null;
  /** How long the receiving server may take to answer, ms. */
  smtpAnswerMs: number;
  mailboxUrl: string | null;
  /** Address of the simulated shop. */
  shopUrl: string | null;
  crowdUrl: string | null;
  pages: string | null;
  migrations: string;
  leaseMs: number;
  /** Private hosts that webhooks may call: filled in practice mode only. */
  allowedHosts: string[];
  trustProxy: TrustProxy;
  /** Where the logs are kept, or null for the terminal alone. */
  logFolder: string | null;
  logLevel: string | undefined;
  /** What whoever asks for figures must say, or null: then this machine itself is answered. */
  metricsToken: string | null;
  /** Port of loopback on which an engine tells its figures, or null. */
  metricsPort: number | null;
  /** Messages handed over at once. */
  parallel: number;
  /** What ids and secrets follow while the demo's history is made, and the moment they tell (epoch ms); null for chance. */
  seed: { text: string; from: number } | null;
}

/** `transaction` behind a pooler in that mode, or nothing. */
function readPooling(text: string): boolean {
  if (text === '' || text === 'transaction') return text !== '';
  throw new Error(`DATABASE_POOLING is “transaction” behind PgBouncer in that mode, or not set. “${text}” is neither.`);
}

const PROXIES = 'TRUST_PROXY is the number of reverse proxies before this server, such as 1, or their addresses.';

/** `1`, or `loopback, 10.0.0.7, 10.1.0.0/16`. Trusting everybody would let each caller say who they are. */
export function readProxies(text: string): TrustProxy {
  const given = text.trim();
  if (given === '' || given === '0') return false;
  if (/^\d{1,2}$/.test(given)) return Number(given);
  const all = given.split(',').map((part) => part.trim());
  for (const one of all)
    if (!/^(loopback|linklocal|uniquelocal)$/.test(one) && !isIP(one) && !ipaddr.isValidCIDR(one))
      throw new Error(`${PROXIES} “${one}” is neither.`);
  return all;
}

/** `1906 1762423920000`: a word, and the moment that ids tell. Secrets that a seed foretells are good for invented people only. */
function readSeed(text: string, smtpUrl: string): Config['seed'] {
  if (text === '') return null;
  if (process.env.SMTP_SIMULATED !== '1')
    throw new Error(
      `DEMO_SEED makes secrets that can be foretold: it is refused where mail leaves the house (${smtpUrl}).`,
    );
  const [seed = '', from = '0'] = text.split(' ');
  return { text: seed, from: Number(from) };
}

function need(name: string): string {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set. Start with "npm start", which sets it, or give it yourself.`);
  return value;
}

/** The settings, or the end of this process with a sentence that names the one that is wrong. */
export function readConfig(): Config {
  try {
    return settings();
  } catch (error) {
    console.error((error as Error).message);
    process.exit(1);
  }
}

/** Where whoever runs this is told by another way than mail, or null. Throws where it is no address of the web. */
function readAlertUrl(text: string): string | null {
  if (text === '') return null;
  if (!/^https?:$/.test(URL.canParse(text) ? new URL(text).protocol : ''))
    throw new Error(`ALERT_URL: “${text}” is no address. It looks like https://alerts.foldwell.example/ascenso`);
  return text;
}

/** A certificate and its key from their files, or null where none are named. Throws where one of them cannot be read. */
function readCertificate(cert: string, key: string): { cert: Buffer; key: Buffer } | null {
  if (cert === '' && key === '') return null;
  if (cert === '' || key === '')
    throw new Error('INBOX_CERT and INBOX_KEY belong together: name both files, or neither.');
  return { cert: readFileSync(cert), key: readFileSync(key) };
}

function settings(): Config {
  const port = Number(process.env.PORT ?? 4310);
  const smtpUrl = process.env.SMTP_URL ?? 'smtp://127.0.0.1:2525';
  readSmtpUrl(smtpUrl);
  return {
    databaseUrl: need('DATABASE_URL'),
    readDatabaseUrl: process.env.READ_DATABASE_URL || null,
    pooled: readPooling(process.env.DATABASE_POOLING ?? ''),
    host: '127.0.0.1',
    port,
    base: process.env.PUBLIC_BASE ?? `http://127.0.0.1:${port}`,
    smtpUrl,
    returnDomain: process.env.RETURN_DOMAIN || null,
    alertUrl: readAlertUrl(process.env.ALERT_URL ?? ''),
    inbox: process.env.INBOX_PORT
      ? {
          host: process.env.INBOX_HOST ?? '127.0.0.1',
          port: Number(process.env.INBOX_PORT),
          tls: readCertificate(process.env.INBOX_CERT ?? '', process.env.INBOX_KEY ?? ''),
        }
      : null,
    mailTo: process.env.SMTP_SIMULATED === '1' ? null : new URL(smtpUrl).host,
    smtpAnswerMs: Number(process.env.SMTP_ANSWER_MS ?? ANSWER_MS),
    mailboxUrl: process.env.MAILBOX_URL ?? null,
    shopUrl: process.env.SHOP_URL ?? null,
    crowdUrl: process.env.CROWD_URL ?? null,
    pages: process.env.PAGES ? path.resolve(process.env.PAGES) : null,
    migrations: process.env.MIGRATIONS ?? path.resolve('server/drizzle'),
    leaseMs: Number(process.env.LEASE_MS ?? LEASE_MS),
    allowedHosts: (process.env.WEBHOOK_HOSTS ?? '').split(',').filter(Boolean),
    logFolder: process.env.LOG_FOLDER ? path.resolve(process.env.LOG_FOLDER) : null,
    logLevel: process.env.LOG_LEVEL,
    metricsToken: process.env.METRICS_TOKEN ?? null,
    metricsPort: process.env.METRICS_PORT ? Number(process.env.METRICS_PORT) : null,
    parallel: Number(process.env.SMTP_PARALLEL ?? 4),
    seed: readSeed(process.env.DEMO_SEED ?? '', smtpUrl),
    trustProxy: readProxies(process.env.TRUST_PROXY ?? ''),
  };
}

export async function openSending(config: Config, connection: Connection): Promise<SendSettings> {
  return {
    transport: new SmtpTransport(config.smtpUrl, { answerMs: config.smtpAnswerMs }),
    base: config.base,
    secret: await installationSecret(connection.db),
    returnDomain: config.returnDomain,
    alertUrl: config.alertUrl,
    parallel: config.parallel,
    leaseMs: config.leaseMs,
    allowedHosts: config.allowedHosts,
  };
}

export const openConnection = ({ databaseUrl, pooled }: Config): Connection => connect(databaseUrl, { pooled });

export const openReading = ({ readDatabaseUrl, pooled }: Config, connection: Connection): Reading =>
  readDatabaseUrl ? readReplica(readDatabaseUrl, connection, { pooled }) : readPrimary(connection);

/** Ends a process in order on Ctrl C and on kill, whatever becomes of its last work. */
export function onStop(stop: () => Promise<void>): void {
  for (const signal of ['SIGTERM', 'SIGINT'] as const)
    process.once(signal, () => {
      stop().then(
        () => process.exit(0),
        () => process.exit(1),
      );
    });
}
