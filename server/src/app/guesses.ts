import { createHmac, timingSafeEqual } from 'node:crypto';
import { parseCookie, stringifySetCookie } from 'cookie';
import type { Request, Response } from 'express';
import { UserError } from './errors.ts';
import { SECURE } from './sessions.ts';

const COOKIE = 'ascenso_known';
const YEAR_S = 365 * 86_400;
/** Wrong passwords of one account that are nobody's guessing yet, and for how long they are counted, ms of the system clock. */
const FREE = 20;
const REMEMBERED_MS = 60 * 60_000;
/** From then on a try waits so long, and so many of them at once: a try a second, from however many networks. */
const WAIT_MS = 5_000;
const AT_ONCE = 5;
/** Accounts that are counted at once; of more, those that were tried longest ago are forgotten. */
const MOST_ACCOUNTS = 10_000;

interface Account {
  wrong: number;
  since: number;
  waiting: number;
}

/**
 * Slows the guessing of one account's password from many networks. Nobody is locked out: a browser that has signed in to the
 * account before carries a signed cookie, and goes straight on.
 */
export class Guesses {
  readonly #accounts = new Map<string, Account>();
  readonly #secret: string;
  readonly #wait: (ms: number) => Promise<unknown>;

  constructor(secret: string, wait: (ms: number) => Promise<unknown> = (ms) => new Promise((r) => setTimeout(r, ms))) {
    this.#secret = secret;
    this.#wait = wait;
  }

  #mark(account: string): Buffer {
    return createHmac('sha256', this.#secret).update(`known browser ${account}`).digest();
  }

  #isKnown(account: string, req: Request): boolean {
    const told = Buffer.from(parseCookie(req.headers.cookie ?? '')[COOKIE] ?? '', 'base64url');
    const mark = this.#mark(account);
    return told.length === mark.length && timingSafeEqual(told, mark);
  }

  /** Lets a try wait where the account is being guessed. Throws where too many wait already. */
  async slow(account: string, req: Request): Promise<void> {
    const found = this.#accounts.get(account);
    if (!found || found.wrong < FREE || found.since < Date.now() - REMEMBERED_MS || this.#isKnown(account, req)) return;
    if (found.waiting >= AT_ONCE)
      throw new UserError(
        429,
        'too-many',
        'Too many passwords are being tried for this account. Try again in a minute, or in a browser that you have signed in with before.',
      );
    found.waiting++;
    await this.#wait(WAIT_MS).finally(() => found.waiting--);
  }

  /** Notes a wrong password. */
  wrong(account: string): void {
    const now = Date.now();
    const known = this.#accounts.get(account);
    const counts = known && known.since >= now - REMEMBERED_MS;
    // Put in anew, so that the first of the map is the one that was tried longest ago.
    this.#accounts.delete(account);
    const it = known ?? { wrong: 0, since: now, waiting: 0 };
    // Whoever waits has it in hand: it stays the same one.
    this.#accounts.set(account, Object.assign(it, counts ? { wrong: it.wrong + 1 } : { wrong: 1, since: now }));
    const [oldest] = this.#accounts.keys();
    if (this.#accounts.size > MOST_ACCOUNTS && oldest !== undefined) this.#accounts.delete(oldest);
  }

  /** Notes that this browser has signed in. */
  right(account: string, res: Response): void {
    res.append(
      'Set-Cookie',
      stringifySetCookie({
        name: COOKIE,
        value: this.#mark(account).toString('base64url'),
        httpOnly: true,
        sameSite: 'strict',
        path: '/api/session',
        maxAge: YEAR_S,
        secure: res.app.get(SECURE) === true,
      }),
    );
  }
}
