import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { randomUUID } from 'node:crypto';
import { KITS as goods } from '../goods.ts';
import { staysOnTheLine, writeWhole } from '../keeping.ts';
import { CURRENCY, totalOf, type Cart } from './cart.ts';
import { cartPage, checkoutPage, frontPage, messagePage, thanksPage, productPage, type Visit } from './pages.ts';

/** What the shop knows of the application: its public address and a key. */
export interface ShopDoors {
  base: string;
  key: string;
  pictures: Readonly<Record<string, string>>;
  /** Name of the site that its pages tell with; absent where they tell nothing. */
  site?: string;
}

interface CodeAnswer {
  good: boolean;
  message: string;
  offer: { words: string; discount: { kind: 'percent' | 'amount' | 'delivery' | 'other'; value?: number } } | null;
}

/** The cookie by which a browser finds its cart again. */
const CART = 'foldwell_cart';
const MOST_OF_ONE = 20;

const cents = (n: number) => Math.round(n * 100) / 100;

/** Reads a form that a browser posted; 20 kB at most. */
async function formOf(req: IncomingMessage): Promise<URLSearchParams> {
  let body = '';
  for await (const chunk of req) {
    body += String(chunk);
    if (body.length > 20_000) throw new Error('The form is too large.');
  }
  return new URLSearchParams(body);
}

/**
 * A small web shop of its own pages. It reaches the application through the doors that any shop has: it tells what
 * happens as events, asks whether a code is good, and says when one was used.
 */
export class Shop {
  readonly #file: string;
  #doors: ShopDoors | null = null;
  readonly #carts = new Map<string, Cart>();

  constructor(folder: string) {
    mkdirSync(folder, { recursive: true });
    this.#file = path.join(folder, 'shop.json');
    if (!existsSync(this.#file)) return;
    const kept = JSON.parse(readFileSync(this.#file, 'utf8')) as { doors: ShopDoors | null; carts: Cart[] };
    this.#doors = kept.doors;
    for (const c of kept.carts) this.#carts.set(c.id, c);
  }

  #save(): void {
    writeWhole(this.#file, JSON.stringify({ doors: this.#doors, carts: [...this.#carts.values()] }));
  }

  async #ask(
    method: string,
    address: string,
    body?: unknown,
    type = 'application/json',
  ): Promise<{ ok: boolean; data: unknown }> {
    if (!this.#doors) throw new Error('The shop has no key yet: make the demo first.');
    const answer = await fetch(`${this.#doors.base}/intake${address}`, {
      method,
      headers: { Authorization: `Bearer ${this.#doors.key}`, ...(body === undefined ? {} : { 'Content-Type': type }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    return { ok: answer.ok, data: await answer.json() };
  }

  async #tell(type: string, email: string, data: object): Promise<void> {
    const event = {
      specversion: '1.0',
      id: randomUUID(),
      source: 'https://foldwell.example/shop',
      type,
      subject: email,
      data,
    };
    const { ok, data: answer } = await this.#ask('POST', '/events', event, 'application/cloudevents+json');
    if (!ok) throw new Error(`The event was refused: ${JSON.stringify(answer)}`);
  }

  /** The lines of a cart as the application is told them. */
  #lines(cart: Cart, address: string): object[] {
    return cart.lines.map(({ sku, quantity }) => {
      const kit = goods.find((g) => g.sku === sku);
      return {
        sku,
        title: kit?.title ?? sku,
        price: kit?.price ?? 0,
        quantity,
        page: `${address}/kits/${sku}`,
        ...(this.#doors?.pictures[sku] ? { image: this.#doors.pictures[sku] } : {}),
      };
    });
  }

  /** Who looks: the cart that their browser carries, and how their region writes prices. */
  #visit(req: IncomingMessage): Visit {
    const id = new RegExp(`(?:^|; )${CART}=([^;]+)`).exec(req.headers.cookie ?? '')?.[1] ?? '';
    const [wanted = 'en-GB'] = (req.headers['accept-language'] ?? '').split(/[,;]/).filter(Boolean);
    const { pictures = {}, site, base = '' } = this.#doors ?? {};
    return {
      pictures,
      cart: this.#carts.get(id) ?? null,
      locale: Intl.NumberFormat.supportedLocalesOf([wanted.replace('*', '')].filter(Boolean))[0] ?? 'en-GB',
      script: site ? { src: `${base}/site.js`, site } : null,
    };
  }

  #cart(id: string): Cart {
    const cart = this.#carts.get(id);
    if (!cart) throw new Error('There is no such cart here.');
    return cart;
  }

  /** Answers a request with a page or the address of the next one. `address` is the shop's own. */
  async #answer(
    req: IncomingMessage,
    address: string,
  ): Promise<{ page: string } | { to: string; cart?: string } | { json: unknown } | null> {
    const visit = this.#visit(req);
    const { pathname } = new URL(req.url ?? '/', address);
    const [, place = '', id = '', what = ''] = pathname.split('/');
    const post = req.method === 'POST';
    if (pathname === '/begin' && post) {
      let body = '';
      for await (const chunk of req) body += String(chunk);
      this.#doors = JSON.parse(body) as ShopDoors;
      this.#save();
      return { json: {} };
    }
    if (pathname === '/') return { page: frontPage(visit) };
    if (place === 'kits') {
      const kit = goods.find((g) => g.sku === id);
      return kit ? { page: productPage(kit, visit) } : null;
    }
    if (place === 'cart' && post && id === '') {
      const form = await formOf(req);
      const sku = form.get('sku') ?? '';
      if (!goods.some((g) => g.sku === sku)) return null;
      const cart: Cart = {
        id: randomUUID().slice(0, 8),
        email: '',
        lines: [{ sku, quantity: 1 }],
        code: null,
        order: null,
      };
      this.#carts.set(cart.id, cart);
      this.#save();
      return { to: `/cart/${cart.id}`, cart: cart.id };
    }
    if (place !== 'cart') return null;
    const cart = this.#cart(id);
    const seen = { ...visit, cart };
    if (!post)
      return {
        page:
          what === 'thanks' ? thanksPage(cart, seen) : what === 'pay' ? checkoutPage(cart, seen) : cartPage(cart, seen),
      };
    const form = await formOf(req);
    if (cart.order) return { to: `/cart/${id}/thanks` };
    const done = await this.#change(cart, seen, what, form, address);
    this.#save();
    return done;
  }

  async #change(
    cart: Cart,
    seen: Visit,
    what: string,
    form: URLSearchParams,
    address: string,
  ): Promise<{ page: string } | { to: string } | null> {
    switch (what) {
      case 'add': {
        const sku = form.get('sku') ?? '';
        const line = cart.lines.find((l) => l.sku === sku);
        if (line) line.quantity = Math.min(MOST_OF_ONE, line.quantity + 1);
        else if (goods.some((g) => g.sku === sku)) cart.lines.push({ sku, quantity: 1 });
        return { to: `/cart/${cart.id}` };
      }
      case 'count': {
        const line = cart.lines.find((l) => l.sku === form.get('sku'));
        if (line) line.quantity = Math.min(MOST_OF_ONE, line.quantity + (form.get('by') === '1' ? 1 : -1));
        cart.lines = cart.lines.filter((l) => l.quantity > 0);
        return { to: `/cart/${cart.id}` };
      }
      case 'checkout': {
        const email = (form.get('email') ?? '').trim().toLowerCase();
        if (!/^[^\s@]+@[^\s@.]+(?:\.[^\s@.]+)+$/.test(email))
          return {
            page: cartPage(cart, seen, 'Write your email address, as marta@readers.example.'),
          };
        cart.email = email;
        await this.#tell('order.begun', email, {
          lines: this.#lines(cart, address),
          total: totalOf(cart),
          cart: cart.id,
          return_to: `${address}/cart/${cart.id}/pay`,
        });
        return { to: `/cart/${cart.id}/pay` };
      }
      case 'code': {
        const code = (form.get('code') ?? '').trim();
        const { ok, data } = await this.#ask(
          'GET',
          `/codes/${encodeURIComponent(code || '-')}?${new URLSearchParams({ email: cart.email })}`,
        );
        const answer = data as CodeAnswer;
        if (!ok || !answer.good || !answer.offer)
          return { page: checkoutPage(cart, seen, answer.message ?? 'That code cannot be read.') };
        const { discount, words } = answer.offer;
        const off =
          discount.kind === 'percent'
            ? (totalOf(cart) * (discount.value ?? 0)) / 100
            : discount.kind === 'amount'
              ? Math.min(totalOf(cart), discount.value ?? 0)
              : 0;
        cart.code = { code, words, off: cents(off) };
        return { to: `/cart/${cart.id}/pay` };
      }
      case 'order': {
        const number = `F-${cart.id}`;
        const total = cents(totalOf(cart) - (cart.code?.off ?? 0));
        if (cart.code) {
          const used = await this.#ask('POST', `/codes/${encodeURIComponent(cart.code.code)}/redeem`, {
            order: number,
            email: cart.email,
            total,
            currency: CURRENCY,
          });
          // It was good when it was typed, and has closed since.
          if (!used.ok) {
            cart.code = null;
            return { page: checkoutPage(cart, seen, (used.data as { detail: string }).detail) };
          }
        }
        await this.#tell('order.paid', cart.email, {
          lines: this.#lines(cart, address),
          total,
          number,
          ...(cart.code ? { code: cart.code.code } : {}),
        });
        cart.order = { number, total };
        return { to: `/cart/${cart.id}/thanks` };
      }
      default:
        return null;
    }
  }

  /** Opens the shop on loopback; answers its port. */
  listen(port: number): Promise<{ port: number; close: () => Promise<void> }> {
    const server = createServer((req, res) => {
      this.#serve(req, res, (server.address() as AddressInfo).port).catch(() => res.destroy());
    });
    return new Promise((resolve) => {
      staysOnTheLine(server).listen(port, '127.0.0.1', () => {
        const close = () =>
          new Promise<void>((done) => {
            server.closeAllConnections();
            server.close(() => done());
          });
        resolve({ port: (server.address() as AddressInfo).port, close });
      });
    });
  }

  async #serve(req: IncomingMessage, res: ServerResponse, port: number): Promise<void> {
    const html = (status: number, page: string) =>
      res.writeHead(status, { 'Content-Type': 'text/html; charset=utf-8' }).end(page);
    try {
      const answer = await this.#answer(req, `http://127.0.0.1:${port}`);
      if (!answer) html(404, messagePage(this.#visit(req), 'Nothing here', 'The shop has no such page.'));
      else if ('to' in answer)
        res
          .writeHead(303, {
            Location: answer.to,
            ...(answer.cart ? { 'Set-Cookie': `${CART}=${answer.cart}; Path=/; SameSite=Lax; HttpOnly` } : {}),
          })
          .end();
      else if ('json' in answer)
        res.writeHead(200, { 'Content-Type': 'application/json' }).end(JSON.stringify(answer.json));
      else html(200, answer.page);
    } catch (error) {
      html(500, messagePage(this.#visit(req), 'Something went wrong', (error as Error).message));
    }
  }
}
