import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import request from 'supertest';
import { afterAll, beforeAll } from 'vitest';
import { blankEmail, blankSequence, paragraphs, type Condition, type Sequence, type Step } from '@ascenso/core';
import { startMailbox, type Mailbox } from '../../../standins/src/mailbox/mailbox.ts';
import { bootstrap, makeWorkspace } from '../../src/bootstrap.ts';
import { publish } from '../../src/sequences/publishing.ts';
import { makeKey } from '../../src/db/keys.ts';
import { businessNow, installationSecret, standAt } from '../../src/app/clock.ts';
import { newId } from '../../src/app/ids.ts';
import { hashPassword } from '../../src/app/sessions.ts';
import type { AppContext } from '../../src/app/context.ts';
import { createServer } from '../../src/app/server.ts';
import { connect, type Connection } from '../../src/db/connect.ts';
import { countsBeyond, MANY_PEOPLE } from '../../src/app/kept.ts';
import { readPrimary } from '../../src/db/reading.ts';
import { firstRow, rows } from '../../src/db/rows.ts';
import { moveClock, type Crowd } from '../../src/engine/mover.ts';
import { LEASE_MS, type SendSettings } from '../../src/engine/settings.ts';
import { signSend, type Door } from '../../src/mail/token.ts';
import { SmtpTransport } from '../../src/mail/transport.ts';
import { databaseFor } from './template.ts';

/** Friday 6 March 2026, 12:00 in Lisbon. */
export const FRIDAY_NOON = Date.UTC(2026, 2, 6, 12);
export const migrations = path.resolve(import.meta.dirname, '../../drizzle');
export const owner = {
  email: 'ines@foldwell.example',
  name: 'Inês Rocha',
  password: 'fold-along-the-grain',
  role: 'owner' as const,
};

/** Whoever puts people on lists in tests. */
export const byHand = { kind: 'team', source: { how: 'hand', label: owner.name, words: '' } } as const;

/** A server, a database of its own and a mailbox, with the practice clock standing still. */
export class World {
  connection!: Connection;
  mailbox!: Mailbox;
  sending!: SendSettings;
  databaseUrl!: string;
  ws!: string;
  list!: string;
  key!: string;
  app!: ReturnType<typeof createServer>;
  #folder!: string;

  /** In a database of its own, of the cluster of all tests or of another. */
  async open(base = process.env.TEST_DATABASE_URL): Promise<void> {
    if (!base) throw new Error('TEST_DATABASE_URL is not set: run the tests with "npm test".');
    const name = `test_${randomUUID().replaceAll('-', '').slice(0, 16)}`;
    this.databaseUrl = await databaseFor(base, name, migrations, FRIDAY_NOON);
    this.connection = connect(this.databaseUrl);
    this.ws = (await bootstrap(this.connection, migrations, { ...workspace, practiceFrom: FRIDAY_NOON })).workspaceId;
    this.#folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-mailbox-'));
    this.mailbox = await startMailbox({ folder: this.#folder, smtpPort: 0, httpPort: 0 });
    const secret = await installationSecret(this.connection.db);
    this.sending = {
      transport: new SmtpTransport(`smtp://127.0.0.1:${this.mailbox.smtpPort}`),
      base: 'http://ascenso.test',
      secret,
      parallel: 2,
      leaseMs: LEASE_MS,
      allowedHosts: [`127.0.0.1:${this.mailbox.httpPort}`],
    };
    this.app = this.serve();
    this.list = await this.addList(this.ws, 'Workshop letters');
    this.key = (await makeKey(this.connection.db, this.ws, 'Shop', FRIDAY_NOON)).key;
    await this.connection.db.execute(
      sql`update workspaces set style = style || '{"postalAddress":"Foldwell Bindery, Rua das Gáveas 12, Lisbon"}', grace_minutes = 0`,
    );
  }

  /** The web process, as it would be with these settings. */
  serve(settings: Partial<AppContext> = {}): ReturnType<typeof createServer> {
    const { connection, sending } = this;
    const mailboxUrl = `http://127.0.0.1:${this.mailbox.httpPort}`;
    const outside = { mailboxUrl, shopUrl: null, mailTo: null, crowd: null };
    const log = pino({ level: 'silent' });
    return createServer(
      {
        connection,
        reading: readPrimary(connection),
        counts: countsBeyond(MANY_PEOPLE, connection.db),
        sending,
        ...outside,
        log,
        trustProxy: false,
        metricsToken: null,
        ...settings,
      },
      null,
    );
  }

  async close(): Promise<void> {
    this.sending.transport.close();
    await this.mailbox.close();
    await this.connection.close();
    rmSync(this.#folder, { recursive: true, force: true });
  }

  async addList(ws: string, name: string): Promise<string> {
    const id = newId();
    await this.connection.db.execute(sql`insert into lists (workspace_id, id, name) values (${ws}, ${id}, ${name})`);
    return id;
  }

  /** Another workspace in the same installation. */
  otherWorkspace(): Promise<string> {
    return makeWorkspace(this.connection, {
      ...workspace,
      workspace: { ...workspace.workspace, name: 'Elsewhere Press' },
      users: [{ ...owner, email: 'ada@elsewhere.example' }],
    });
  }

  async addUser(email: string, role: 'owner' | 'editor' | 'reviewer'): Promise<void> {
    const id = newId();
    const { db } = this.connection;
    await db.execute(
      sql`insert into users (id, email, name, password_hash) values (${id}, ${email}, ${email}, ${await hashPassword(owner.password)})`,
    );
    await db.execute(sql`insert into members (workspace_id, user_id, role) values (${this.ws}, ${id}, ${role})`);
  }

  /** Somebody joins the list, through the intake. */
  async join(
    email: string,
    more: {
      attributes?: Record<string, unknown>;
      zone?: string;
      key?: string;
      confirmed_at?: string;
      lists?: string[];
    } = {},
  ) {
    const { key = this.key, ...rest } = more;
    await request(this.app)
      .post('/intake/subscribers')
      .set('Authorization', `Bearer ${key}`)
      .send({ email, lists: [this.list], ...rest })
      .expect(200);
  }

  /** Something happens in the shop: answers what the intake said. */
  event(event: { type: string; subject: string; id?: string; time?: number; data?: Record<string, unknown> }) {
    return request(this.app)
      .post('/intake/events')
      .set('Authorization', `Bearer ${this.key}`)
      .set('Content-Type', 'application/cloudevents+json')
      .send(JSON.stringify(cloudEvent(event)));
  }

  /** Publishes a sequence and answers its id. */
  async live(sequence: Partial<Sequence> & { steps: Step[] }): Promise<string> {
    const id = newId();
    const draft: Sequence = {
      ...blankSequence('Welcome', this.list),
      triggers: [{ kind: 'list', list: this.list, what: 'joined' }],
      ...sequence,
    };
    const { db } = this.connection;
    await db.execute(
      sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${this.ws}, ${id}, ${draft.name}, 'draft', 0, 0, ${JSON.stringify(draft)}::jsonb)`,
    );
    const now = await this.now();
    await db.transaction((tx) => publish(tx, this.ws, id, 0, null, now));
    return id;
  }

  ahead(to: number, crowd: Crowd | null = null): Promise<void> {
    return moveClock(this.connection, this.sending, to, crowd);
  }

  now(): Promise<number> {
    return businessNow(this.connection.db);
  }

  stand(at: number): Promise<void> {
    return standAt(this.connection.db, at);
  }

  /** The address of an email behind one of its doors, such as `/u/…`. */
  path(door: Door, send: string | undefined): string {
    return `/${door}/${signSend(this.sending.secret, { workspaceId: this.ws, sendId: send ?? '' }, door)}`;
  }

  /** Messages in the mailbox: who, what, when. */
  mail(): { to: string; subject: string; at: number }[] {
    return this.mailbox.store.summaries.map(({ to, subject, at }) => ({ to, subject, at }));
  }

  person(email: string) {
    return firstRow<{ id: string; mail_status: string; tags: string[]; points: number }>(
      this.connection.db,
      sql`select id, mail_status, tags, points from people where workspace_id = ${this.ws} and email = ${email}`,
    );
  }

  trace(email: string) {
    return rows<{ code: string; at: number; data: Record<string, unknown> }>(
      this.connection.db,
      sql`select t.code, t.at, t.data from reasons t join people p on p.workspace_id = t.workspace_id and p.id = t.person_id where p.email = ${email} order by t.at, t.id, t.n`,
    );
  }
}

const workspace = {
  workspace: { name: 'Foldwell Bindery', zone: 'Europe/Lisbon', currency: 'EUR' },
  users: [owner],
  attributes: [
    { key: 'first_name', label: 'First name', type: 'text' },
    { key: 'orders', label: 'Orders', type: 'number' },
  ],
  sender: { name: 'Inês at Foldwell', email: 'ines@foldwell.example' },
};

let events = 0;
/** An event in the JSON form of CloudEvents 1.0, with an id of its own unless one is given. */
export const cloudEvent = (e: {
  type: string;
  subject: string;
  id?: string;
  time?: number;
  data?: Record<string, unknown>;
}) => ({
  specversion: '1.0',
  id: e.id ?? `event-${++events}`,
  source: 'https://foldwell.example/shop',
  type: e.type,
  subject: e.subject,
  ...(e.time === undefined ? {} : { time: new Date(e.time).toISOString() }),
  data: e.data ?? {},
});

let counter = 0;
export const testId = () => `s${++counter}`;

/** An email step with a subject and one button. */
export function emailStep(
  name: string,
  extra: { subject?: string; address?: string; id?: string } = {},
): Step & { kind: 'email' } {
  const step = blankEmail(testId, name);
  step.id = extra.id ?? step.id;
  step.email.subject = extra.subject ?? name;
  for (const b of step.email.blocks) {
    if (b.kind === 'text')
      b.doc = paragraphs(['Hello ', { path: 'subscriber.first_name', fallback: 'reader', filters: [] }, ',']);
    if (b.kind === 'button')
      Object.assign(b, { label: 'See the kits', address: extra.address ?? 'https://foldwell.example/kits' });
  }
  return step;
}

export const waitStep = (amount: number, unit: 'minutes' | 'hours' | 'days' | 'weeks' = 'days'): Step => ({
  id: testId(),
  on: true,
  note: '',
  kind: 'wait',
  amount,
  unit,
  at: null,
});

/** A branch: its arms in order, each a condition (null for whoever is left) and the steps below it. */
export const branchStep = (...arms: [Condition | null, Step[]][]): Step => ({
  id: testId(),
  on: true,
  note: '',
  kind: 'branch',
  name: '',
  arms: arms.map(([condition, steps]) => ({ id: testId(), condition, steps })),
});

export const actionStep = (action: Extract<Step, { kind: 'action' }>['action']): Step => ({
  id: testId(),
  on: true,
  note: '',
  kind: 'action',
  action,
});

/** A world for one test file. */
export function useWorld(): World {
  const world = new World();
  beforeAll(() => world.open());
  afterAll(() => world.close());
  return world;
}
