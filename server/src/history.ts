import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import { businessNow, installationSecret } from './app/clock.ts';
import { openConnection, readConfig } from './app/config.ts';
import { firstRow } from './db/rows.ts';
import {
  historyText,
  keepHistory,
  messagesAgain,
  packHistory,
  readHistory,
  restoreHistory,
} from './jobs/history/index.ts';
import { withSigns } from './jobs/history/signs.ts';
import release from '../package.json' with { type: 'json' };

// `history keep FILE HEAD` writes what an installation holds into a file, `history restore FILE` brings it back into an empty
// one. The launcher runs both, while nobody else works on the database; the mailbox is there, and takes its messages.
const [, , what, file = ''] = process.argv;
const config = readConfig();
const connection = openConnection(config);

/** Files of the stand-ins, by where they lie in the folder of an installation. */
const KEPT = ['crowd/crowd.json', 'shop/shop.json'];
const folder = process.env.HOME_FOLDER ?? '';

/** Where this installation is, and what stands around it. */
const addresses = { base: config.base, mailbox: config.mailboxUrl ?? '', shop: new URL(config.shopUrl ?? '').host };
const told = (line: object) => console.log(JSON.stringify(line));

async function keep(): Promise<void> {
  const head = JSON.parse(process.argv[4] ?? '{}') as Parameters<typeof keepHistory>[1];
  const kept = Object.fromEntries(KEPT.map((name) => [name, readFileSync(path.join(folder, name), 'utf8')]));
  const { doors } = JSON.parse(kept['crowd/crowd.json'] ?? '') as { doors: { key: string } };
  const index = readFileSync(path.join(folder, 'mailbox/index.jsonl'), 'utf8').trim().split('\n');
  const mail = index.map((line) => (JSON.parse(line) as { messageId: string }).messageId);
  const migrations = await firstRow<{ n: number }>(
    connection.db,
    sql`select count(*) as n from drizzle.__drizzle_migrations`,
  );
  const signs = { secret: await installationSecret(connection.db), words: { ...addresses, key: doors.key } };
  const now = await businessNow(connection.db);
  const whole = { ...head, now, release: release.version, migrations: migrations?.n ?? 0 };
  const text = historyText(await keepHistory(connection, whole, signs, mail, kept));
  const packed = packHistory(text, process.argv.includes('--quick'));
  writeFileSync(file, packed);
  told({ text: Buffer.byteLength(text), packed: packed.length });
}

async function restore(): Promise<void> {
  const history = readHistory(file, readFileSync(file));
  const { users } = JSON.parse(readFileSync(process.env.BOOTSTRAP_FILE ?? '', 'utf8')) as {
    users: { email: string; password: string }[];
  };
  const { migrations, mailboxUrl, returnDomain } = config;
  const installing = { addresses, migrations, release: release.version, users };
  const fresh = await restoreHistory(connection, history, installing, async (db, signs) => {
    for (const [name, text] of Object.entries(history.kept)) {
      mkdirSync(path.dirname(path.join(folder, name)), { recursive: true });
      writeFileSync(path.join(folder, name), withSigns(text, signs));
    }
    let done = 0;
    for await (const messages of messagesAgain(db, signs, returnDomain, history.mail)) {
      const answer = await fetch(`${mailboxUrl}/fill`, { method: 'POST', body: JSON.stringify(messages) });
      if (!answer.ok) throw new Error(`The mailbox answered ${answer.status}.`);
      done += messages.length;
      if (done % 2_000 === 0) told({ progress: `${done} of ${history.mail.length} emails in the mailbox` });
    }
  });
  told({ fresh });
}

await (what === 'keep' ? keep() : restore());
await connection.close();
