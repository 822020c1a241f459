import { Readable } from 'node:stream';
import { sql } from 'drizzle-orm';
import { describe, expect, test } from 'vitest';
import { blankOffer, type Offer } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { importCodes } from '../src/jobs/import-codes.ts';
import { codeIn, codesOf, useOffers } from './support/offers.ts';
import { waitStep } from './support/world.ts';

const HOUR = 3_600_000;
const { world, agent, now, later, unique, address, addOffer, offering, mailTo, shop, importing } = useOffers();

describe('a pool that runs out', () => {
  const three = async (empty: Offer['empty']) => {
    const offer = await addOffer({ codes: { kind: 'imported' }, empty });
    const pool = unique('POOL-');
    await importing(offer, `code\n${pool}-A\n${pool}-B\n`).expect(200);
    const id = await world.live({ steps: [offering('Gift', offer)] });
    const people = [address(), address(), address()];
    for (const p of people) await world.join(p);
    await world.ahead(now() + HOUR);
    return { offer, id, people, got: people.map((p) => codeIn(mailTo(p)[0])) };
  };

  test('hold: the third waits, told once, and gets the first new code as soon as there is one', async () => {
    const { offer, people, got } = await three({ kind: 'hold' });
    expect(got.slice(0, 2).every((c) => c.startsWith('POOL-'))).toBe(true);
    expect(got[2]).toBe('');
    await world.ahead(now() + 7 * HOUR);
    expect(codesOf(await world.trace(people[2] as string)).filter((c) => c === 'offer-empty')).toHaveLength(1);
    await importing(offer, 'LATE-1\n').expect(200);
    await world.ahead(now() + 7 * HOUR + 60_000);
    expect(codeIn(mailTo(people[2] as string)[0])).toBe('LATE-1');
  });

  test('shared: everybody after the last gets the one code; without: they get none', async () => {
    expect((await three({ kind: 'shared', code: unique('SPARE') })).got[2]).toMatch(/^SPARE/);
    await later(24 * HOUR);
    const { got, people } = await three({ kind: 'without' });
    expect(got[2]).toBe('none');
    // The block falls away with its code, the deadline stands.
    const source = world.mailbox.store
      .source(world.mailbox.store.summaries.filter((s) => s.to === people[2]).at(-1) as never)
      .toString();
    expect(source).not.toContain('Your code');
    expect(source).toContain('Closes on');
  });

  test('what was reserved for an email that is taken back before it went is free again', async () => {
    const offer = await addOffer({ codes: { kind: 'imported' }, empty: { kind: 'hold' } });
    await importing(offer, `${unique('BACK-')}\n`).expect(200);
    const id = await world.live({ steps: [offering('Gift', offer), waitStep(3)] });
    const to = address();
    // The receiving server is busy: the email is decided, its code reserved, and it waits in the queue.
    const { advanceRound } = await import('../src/engine/advance-loop.ts');
    await world.join(to);
    await advanceRound(world.connection, now());
    const free = async () =>
      (
        await firstRow<{ n: number }>(
          world.connection.db,
          sql`select count(*) as n from offer_codes where offer_id = ${offer} and person_id is null`,
        )
      )?.n;
    expect(await free()).toBe(0);
    await agent().post(`/api/sequences/${id}/status`).send({ status: 'archived' }).expect(200);
    expect(await free()).toBe(1);
    expect(await rows(world.connection.db, sql`select 1 from offer_grants where offer_id = ${offer}`)).toEqual([]);
  });
});

test('low stock is warned of by the forecast: the day on which the codes run out, and how many are on the way', async () => {
  const offer = await addOffer({ codes: { kind: 'imported' } });
  const low = unique('LOW-');
  await importing(offer, Array.from({ length: 3 }, (_, i) => `${low}-${i}`).join('\n')).expect(200);
  await world.live({ steps: [waitStep(2), offering('Gift', offer)] });
  const stock = async () =>
    (
      (await agent().get('/api/offers')).body.offers as {
        id: string;
        left: number;
        waiting: number;
        emptyOn: number | null;
        forecast: number[];
      }[]
    ).find((o) => o.id === offer);
  // Three on the way: one code each. The next few weeks' joiners are reckoned from the last four weeks.
  for (let i = 0; i < 3; i++) await world.join(address());
  await world.ahead(now());
  expect(await stock()).toMatchObject({ left: 3, waiting: 3 });
  const day = 24 * HOUR;
  const first = await stock();
  expect(first?.forecast[2]).toBeGreaterThanOrEqual(3);
  await world.join(address());
  await world.ahead(now());
  const second = await stock();
  // The fourth of Friday's people gets to the email on Sunday, and finds none.
  expect(second).toMatchObject({ left: 3, waiting: 4 });
  const inLisbon = (at: number) =>
    new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Lisbon', dateStyle: 'short', timeStyle: 'short' }).format(at);
  expect(inLisbon(second?.emptyOn ?? 0)).toBe(`${inLisbon(now() + 2 * day).slice(0, 10)} 00:00`);
});

describe('codes from a file', () => {
  test('bad rows and doubles are told by line and nothing is taken; or the good ones alone', async () => {
    const offer = await addOffer({ codes: { kind: 'imported' } });
    const own = unique('AB-');
    const small = own.toLowerCase();
    const file = `code,note\n${own}-1,x\nwith space,y\n${small.replace('-', ' ')} 1\n${own}-2\n${small}-1\n;\n`;
    const { body } = await importing(offer, file).expect(200);
    expect(body).toMatchObject({ added: 0, refusedCount: 4 });
    expect((body.refused as { line: number }[]).map((r) => r.line)).toEqual([3, 4, 6, 7]);
    expect(body.refused[2].why).toContain('stands in line 2 already');
    const left = async () =>
      ((await agent().get('/api/offers')).body.offers as { id: string; left: number }[]).find((o) => o.id === offer)
        ?.left;
    expect(await left()).toBe(0);
    expect((await importing(offer, file, '?skip=1')).body).toMatchObject({ added: 2, refusedCount: 4 });
    expect(await left()).toBe(2);
    // What another offer has cannot be given twice.
    const other = await addOffer({ codes: { kind: 'imported' } });
    expect((await importing(other, `${own}-2\n`)).body).toMatchObject({
      added: 0,
      refused: [{ line: 1, why: expect.stringContaining('there already') }],
    });
  });

  test('a file that breaks off on its way adds nothing, and holds up nobody after it', async () => {
    const offer = await addOffer({ codes: { kind: 'imported' } });
    const own = unique('P');
    // The page is left, or Cancel is pressed: more than one written batch has come by then.
    const lines = function* () {
      for (let i = 0; i < 25_000; i++) yield `${own}-${i}\n`;
      throw new Error('aborted');
    };
    const broken = Readable.from(lines());
    await expect(
      world.connection.db.transaction((tx) => importCodes(tx, world.ws, offer, broken, true)),
    ).rejects.toThrow('aborted');
    const { body } = await importing(offer, `${own}-0\n`).expect(200);
    expect(body).toEqual({ added: 1, refused: [], refusedCount: 0 });
  });

  test('what has been given out comes back as a file', async () => {
    const offer = await addOffer();
    await world.live({ steps: [offering('Gift', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now() + HOUR);
    const { text } = await agent().get(`/api/offers/${offer}/codes.csv`).expect(200);
    expect(text.replace('\uFEFF', '').trim().split('\r\n')).toEqual([
      'code,email,issued at,closes at,used at',
      `${codeIn(mailTo(to)[0])},${to},${new Date(now()).toISOString()},${new Date(now() + 48 * HOUR).toISOString()},`,
    ]);
  });

  test('what is wrong is said, with the field', async () => {
    const refused = async (some: object) =>
      (
        await agent()
          .post('/api/offers')
          .send({ ...blankOffer(), name: 'Wrong', ...some })
          .expect(422)
      ).body.error as { field: string; message: string };
    expect(await refused({ codes: { kind: 'shared', code: 'has space' } })).toMatchObject({ field: 'codes.code' });
    expect(await refused({ name: ' ' })).toMatchObject({ field: 'name', message: 'name: Give the offer a name.' });
    await addOffer({ codes: { kind: 'shared', code: 'TWICE' } });
    expect(await refused({ codes: { kind: 'shared', code: 'twice' } })).toMatchObject({ field: 'codes.code' });
    const made = await addOffer();
    expect((await importing(made, 'A1\n').expect(422)).body.error.message).toContain('does not take codes from a file');
    expect((await shop('post', 'X/redeem').send({ total: 3 }).expect(422)).body.field).toBe('order');
    expect((await shop('post', 'X/redeem').send({ order: '1', total: 3 }).expect(409)).body).toMatchObject({
      code: 'unknown',
    });
  });
});
