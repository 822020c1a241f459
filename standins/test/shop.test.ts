import { createServer, type Server } from 'node:http';
import { mkdtempSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Shop } from '../src/shop/shop.ts';

// The application's doors, played by a few lines: what the shop tells is kept, and one code is good until it is used.
const told: { path: string; body: Record<string, unknown>; key: string | undefined }[] = [];
let used = false;
const doors: Server = createServer((req, res) => {
  let body = '';
  req.on('data', (d) => (body += String(d)));
  req.on('end', () => {
    const data = body ? (JSON.parse(body) as Record<string, unknown>) : {};
    told.push({ path: `${req.method} ${req.url}`, body: data, key: req.headers.authorization });
    const answer = (status: number, value: unknown) =>
      void res.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(value));
    if (req.url?.startsWith('/intake/events')) return answer(202, { stored: 1, repeated: 0 });
    if (req.url?.endsWith('/redeem')) {
      if (used) return answer(409, { status: 409, code: 'used', detail: 'This code has been used.' });
      used = true;
      return answer(200, { good: true, repeated: false });
    }
    const good = req.url?.includes('/codes/KIT-1?') === true && !used;
    answer(200, {
      good,
      message: good ? '10% off.' : 'There is no such code.',
      offer: good ? { words: '10% off one order', discount: { kind: 'percent', value: 10 } } : null,
    });
  });
});
let folder = '';
let shop: { port: number; close: () => Promise<void> };
let address = '';
beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-shop-'));
  await new Promise<void>((resolve) => doors.listen(0, '127.0.0.1', resolve));
  shop = await new Shop(folder).listen(0);
  address = `http://127.0.0.1:${shop.port}`;
  const base = `http://127.0.0.1:${(doors.address() as AddressInfo).port}`;
  await fetch(`${address}/begin`, { method: 'POST', body: JSON.stringify({ base, key: 'asc_key', pictures: {} }) });
});
afterAll(async () => {
  await shop.close();
  doors.close();
  rmSync(folder, { recursive: true, force: true });
});

const post = (to: string, fields: Record<string, string>) =>
  fetch(`${address}${to}`, { method: 'POST', body: new URLSearchParams(fields) });
const cart = async () => new URL((await post('/cart', { sku: 'kit-coptic' })).url).pathname;

test('a cart is told of as it is begun, with its lines and the way back to it; and kept over a restart', async () => {
  const mine = await cart();
  expect(await (await post(`${mine}/checkout`, { email: 'no address' })).text()).toContain('Write your email address');
  await post(`${mine}/add`, { sku: 'thread-linen' });
  const till = await post(`${mine}/checkout`, { email: 'Marta@readers.example' });
  expect(await till.text()).toContain('€38.00');
  expect(told.at(-1)).toMatchObject({
    path: 'POST /intake/events',
    key: 'Bearer asc_key',
    body: {
      type: 'order.begun',
      subject: 'marta@readers.example',
      data: {
        total: 38,
        return_to: `${address}${mine}/pay`,
        lines: [{ sku: 'kit-coptic', price: 32, quantity: 1 }, { sku: 'thread-linen' }],
      },
    },
  });
  const again = await new Shop(folder).listen(0);
  expect(await (await fetch(`http://127.0.0.1:${again.port}${mine}/pay`)).text()).toContain(
    'For marta@readers.example',
  );
  await again.close();
});

test('a code that is not good says why; a good one is taken off, used once, and told with the order', async () => {
  const mine = await cart();
  await post(`${mine}/checkout`, { email: 'jonas@readers.example' });
  expect(await (await post(`${mine}/code`, { code: 'WRONG' })).text()).toContain('There is no such code.');
  expect(await (await post(`${mine}/code`, { code: 'KIT-1' })).text()).toContain('−€3.20');
  expect(await (await post(`${mine}/order`, {})).text()).toContain('€28.80');
  expect(told.at(-2)).toMatchObject({
    path: 'POST /intake/codes/KIT-1/redeem',
    body: { total: 28.8, email: 'jonas@readers.example', currency: 'EUR' },
  });
  expect(told.at(-1)?.body).toMatchObject({ type: 'order.paid', data: { total: 28.8, code: 'KIT-1' } });
  // Placing it again changes nothing.
  const before = told.length;
  expect(await (await post(`${mine}/order`, {})).text()).toContain('Thank you');
  expect(told).toHaveLength(before);
});

test('a code that was good when it was typed and has gone since is taken out again, and said', async () => {
  used = false;
  const mine = await cart();
  await post(`${mine}/checkout`, { email: 'ada@readers.example' });
  await post(`${mine}/code`, { code: 'KIT-1' });
  used = true;
  expect(await (await post(`${mine}/order`, {})).text()).toContain('This code has been used.');
  expect(await (await post(`${mine}/order`, {})).text()).toContain('€32.00');
});

test('what is not there is a page that says so, and nothing typed becomes markup', async () => {
  expect((await fetch(`${address}/kits/none`)).status).toBe(404);
  const mine = await cart();
  const page = await (await post(`${mine}/checkout`, { email: '"><script>alert(1)</script>@x.example' })).text();
  expect(page).not.toContain('<script>');
});

test('the cart is found again by the browser, shown on every page, counted up and down, and priced as the region writes it', async () => {
  const made = await fetch(`${address}/cart`, {
    method: 'POST',
    body: new URLSearchParams({ sku: 'kit-coptic' }),
    redirect: 'manual',
  });
  const cookie = made.headers.get('set-cookie')?.split(';')[0] ?? '';
  const mine = made.headers.get('location') ?? '';
  const see = async (to: string, language = 'de-DE') =>
    (await (await fetch(`${address}${to}`, { headers: { cookie, 'accept-language': `${language},en;q=0.5` } })).text())
      .replaceAll('&#160;', ' ')
      .replaceAll('\u00a0', ' ');
  expect(await see('/')).toContain(`<a class="basket" href="${mine}">Cart <b>1</b> <span>32,00 €</span></a>`);
  await post(`${mine}/count`, { sku: 'kit-coptic', by: '1' });
  expect(await see('/kits/thread-linen', 'en-GB')).toContain('Cart <b>2</b> <span>€64.00</span>');
  await post(`${mine}/count`, { sku: 'kit-coptic', by: '-1' });
  await post(`${mine}/count`, { sku: 'kit-coptic', by: '-1' });
  expect(await see(mine)).toContain('It is empty.');
  expect(await see('/')).toContain('Your cart is empty');
});
