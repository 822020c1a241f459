import type { AddressInfo } from 'node:net';
import { once } from 'node:events';
import { createServer } from 'node:http';
import autocannon from 'autocannon';
import { createRequire } from 'node:module';
import { pino } from 'pino';
import { sql } from 'drizzle-orm';
import {
  blankOffer,
  figuresAt,
  hexOf,
  layoutFace,
  plainStyle,
  timerFaces,
  wholeFace,
  blockKinds,
  type TimerFace,
} from '@ascenso/core';
import { createServer as createApp } from '../../server/src/app/server.ts';
import { installationSecret } from '../../server/src/app/clock.ts';
import { newId } from '../../server/src/app/ids.ts';
import { countsBeyond, MANY_PEOPLE } from '../../server/src/app/kept.ts';
import { readPrimary } from '../../server/src/db/reading.ts';
import { firstRow } from '../../server/src/db/rows.ts';
import { advanceRound } from '../../server/src/engine/advance-loop.ts';
import { SmtpTransport } from '../../server/src/mail/transport.ts';
import { sendRound } from '../../server/src/engine/send-loop.ts';
import { signSend } from '../../server/src/mail/token.ts';
import { drawFace, labelsFor } from '../../server/src/timer/drawing.ts';
import { registerFonts } from '../../server/src/timer/fonts.ts';
import { FRAMES, timerGif } from '../../server/src/timer/index.ts';
import { letter } from './support/letter.ts';
import { inTurn } from './support/measure.ts';
import { addPeople, enterEverybody, live, NOW, openWorld } from './support/world.ts';

const { GIFEncoder, quantize, applyPalette } = createRequire(import.meta.url)('gifenc') as {
  GIFEncoder: () => {
    writeFrame: (pixels: Uint8Array, w: number, h: number, options: object) => void;
    finish: () => void;
    bytes: () => Uint8Array;
  };
  quantize: (rgba: Uint8ClampedArray, colors: number) => number[][];
  applyPalette: (rgba: Uint8ClampedArray, palette: number[][]) => Uint8Array;
};

/** The size that is measured: 600 x 120 px. */
const face: TimerFace = wholeFace({ ...timerFaces.Sheet, width: 600, fine: false }, (c) => hexOf(c, plainStyle));
const none = () => Promise.resolve(undefined);
const ours = (seconds: number) =>
  timerGif({ face, language: 'en', left: seconds * 1000, after: { kind: 'zeros' }, picture: none });

/** Every frame drawn in full by the same canvas and written by the general encoder. */
function inFull(seconds: number): Uint8Array {
  registerFonts();
  const layout = layoutFace(face, 1, 2);
  const gif = GIFEncoder();
  let palette: number[][] | undefined;
  for (let i = 0; i < FRAMES; i++) {
    const figures = figuresAt(seconds - i, 2);
    const numbers = {
      day: Number(figures.day),
      hour: Number(figures.hour),
      minute: Number(figures.minute),
      second: Number(figures.second),
    };
    const rgba = drawFace({ face, layout, scale: 1 }, figures, labelsFor(numbers, 'en'));
    palette ??= quantize(rgba, 63);
    gif.writeFrame(applyPalette(rgba, palette), layout.width, layout.height, {
      delay: 1000,
      ...(i === 0 ? { palette } : {}),
    });
  }
  gif.finish();
  return gif.bytes();
}

/** Timers per second and their bytes, against drawing and writing every frame in full. */
export async function timer(): Promise<void> {
  const start = 2 * 86_400 + 5 * 3600;
  let at = start;
  await inTurn(
    `timer (600x120, ${FRAMES} frames; against every frame in full)`,
    'GIFs/s',
    async () => {
      for (let i = 0; i < 200; i++) await ours((at -= 7));
      return 200;
    },
    () => {
      for (let i = 0; i < 3; i++) inFull((at -= 7));
      return 3;
    },
    3,
  );
  const [small, large] = [(await ours(start)).length, inFull(start).length];
  console.log(
    JSON.stringify({
      name: 'timer, bytes of one',
      value: small,
      unit: 'bytes',
      baseline: large,
      ratio: Number((small / large).toFixed(2)),
    }),
  );
}

const rateOf = async (url: string): Promise<number> => {
  const { requests, non2xx } = await autocannon({ url, connections: 8, duration: 5 });
  if (non2xx > 0) throw new Error(`${non2xx} requests were not answered with 2xx.`);
  return requests.average;
};

/** Timers per second through HTTP, looked up and drawn, against a fixed buffer of the same size from a bare server. */
export async function timerHttp(): Promise<void> {
  const { connection, ws, close } = await openWorld();
  const { db } = connection;
  const offer = newId();
  await db.execute(
    sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${ws}, ${offer}, ${JSON.stringify({ ...blankOffer(), name: 'Kit offer' })}::jsonb, 'x', 0)`,
  );
  const email = { ...letter(), offer };
  email.blocks = [
    { ...blockKinds.timer.blank(newId), face: { ...timerFaces.Sheet, width: 600, fine: false } },
    ...email.blocks,
  ];
  const step = {
    id: 'first',
    on: true,
    note: '',
    kind: 'email' as const,
    name: 'First',
    email,
    window: null,
    forWhom: null,
    thenTag: '',
    thenPoints: 0,
  };
  const sequence = await live(connection, ws, [step]);
  await addPeople(connection, ws, 1);
  await enterEverybody(connection, ws, sequence, 'first');
  await advanceRound(connection, NOW);
  const secret = await installationSecret(db);
  const sending = {
    transport: new SmtpTransport('smtp://127.0.0.1:9'),
    base: 'http://ascenso.test',
    secret,
    parallel: 1,
    leaseMs: 1000,
    allowedHosts: [],
  };
  // Nobody takes the message: what counts is that it has been filled.
  await sendRound(connection, sending, NOW);
  const send = await firstRow<{ id: string }>(db, sql`select id from sends where "values" is not null`);
  const app = createApp(
    {
      connection,
      reading: readPrimary(connection),
      counts: countsBeyond(MANY_PEOPLE, connection.db),
      sending,
      mailboxUrl: null,
      shopUrl: null,
      mailTo: null,
      crowd: null,
      log: pino({ level: 'error' }),
      trustProxy: false,
      metricsToken: null,
    },
    null,
  ).listen(0, '127.0.0.1');
  const fixed = Buffer.from(await ours(47 * 3600));
  const bare = createServer((_req, res) =>
    res.writeHead(200, { 'Content-Type': 'image/gif', 'Content-Length': fixed.length }).end(fixed),
  ).listen(0, '127.0.0.1');
  await Promise.all([once(app, 'listening'), once(bare, 'listening')]);
  const port = (s: typeof bare) => (s.address() as AddressInfo).port;
  try {
    const subject = await rateOf(
      `http://127.0.0.1:${port(app)}/t/${signSend(secret, { workspaceId: ws, sendId: send?.id ?? '' }, 't')}/0.gif`,
    );
    const baseline = await rateOf(`http://127.0.0.1:${port(bare)}/`);
    console.log(
      JSON.stringify({
        name: 'timer through HTTP (against a fixed buffer of its size)',
        value: Math.round(subject),
        unit: 'requests/s',
        baseline: Math.round(baseline),
        ratio: Number((subject / baseline).toFixed(2)),
      }),
    );
  } finally {
    app.close();
    bare.close();
    await close();
  }
}
