import type { Request, RequestHandler } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { AppContext } from '../app/context.ts';
import { UserError } from '../app/errors.ts';
import { keyOpening, originIsKnown, type OpenedBy } from '../db/keys.ts';

/** Requests of one key in a minute, to one web process: several times what a busy shop sends. */
const PER_MINUTE = 60_000;
/** A page of somebody's may send so many: its key can be read by whoever opens it. */
const PER_MINUTE_BROWSER = 600;
/** What a page may send along. */
const HEADERS =
  'authorization, content-type, ce-specversion, ce-id, ce-source, ce-type, ce-subject, ce-time, ce-datacontenttype';

/** Who calls, by their API key. */
export class Callers {
  readonly #ctx: AppContext;
  readonly #known = new WeakMap<Request, OpenedBy>();

  constructor(ctx: AppContext) {
    this.#ctx = ctx;
  }

  /** Workspace that a request may write to. */
  workspace(req: Request): string {
    return this.#known.get(req)?.workspace ?? '';
  }

  /** What the key of a request is called. */
  keyName(req: Request): string {
    return this.#known.get(req)?.name ?? '';
  }

  /**
   * What a browser asks before it sends anything of another site's page (CORS, Fetch standard): answered for origins that
   * some key is made for.
   */
  readonly preflight: RequestHandler = async (req, res, next) => {
    const origin = req.get('origin');
    if (req.method !== 'OPTIONS' || origin === undefined) return next();
    res.vary('Origin');
    if (await originIsKnown(this.#ctx.connection.db, origin))
      res.set({
        'Access-Control-Allow-Origin': origin,
        'Access-Control-Allow-Methods': 'POST',
        'Access-Control-Allow-Headers': HEADERS,
        'Access-Control-Max-Age': '600',
      });
    res.status(204).end();
  };

  /** Lets through whoever has a key, before anything of the body is read: a stranger cannot make us parse it. */
  readonly identify: RequestHandler = async (req, res, next) => {
    const key = /^Bearer +(\S+)$/i.exec(req.get('authorization') ?? '')?.[1];
    const opened = key && (await keyOpening(this.#ctx.connection.db, key));
    if (!opened) {
      // RFC 6750, 3: without credentials no reason is told.
      res.set('WWW-Authenticate', `Bearer realm="Ascenso intake"${key ? ', error="invalid_token"' : ''}`);
      throw new UserError(
        401,
        'wrong-key',
        'The API key is missing or wrong: send it as "Authorization: Bearer <key>". Keys are made under People, Events and keys.',
        'Authorization',
      );
    }
    this.#known.set(req, opened);
    if (opened.origins.length > 0) this.#ofPage(opened, req, res);
    next();
  };

  /** A key that stands in a page can be read by anybody: it brings events, from its own pages, and opens nothing else. */
  #ofPage(opened: OpenedBy, req: Request, res: Parameters<RequestHandler>[1]): void {
    const origin = req.get('origin') ?? '';
    if (!opened.origins.includes(origin))
      throw new UserError(
        403,
        'foreign-origin',
        `This key is for pages of ${opened.origins.join(', ')} only. Servers need a key without origins.`,
        'Origin',
      );
    res.vary('Origin');
    res.set({
      'Access-Control-Allow-Origin': origin,
      'Access-Control-Expose-Headers': 'RateLimit, RateLimit-Policy, Retry-After',
    });
    if (req.path !== '/events')
      throw new UserError(403, 'not-allowed', 'A key for pages sends events, and nothing else.', 'Authorization');
  }

  /** Tells with each answer how much is left (draft-ietf-httpapi-ratelimit-headers), and refuses what is too much. */
  readonly limit: RequestHandler = rateLimit({
    windowMs: 60_000,
    limit: (req) => ((this.#known.get(req)?.origins.length ?? 0) > 0 ? PER_MINUTE_BROWSER : PER_MINUTE),
    keyGenerator: (req) => this.#known.get(req)?.id ?? '',
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: () => {
      throw new UserError(429, 'too-many', 'Too many requests in a minute: send events in batches, or wait.');
    },
  });
}
