import type { Request, RequestHandler, Response, Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { z } from 'zod';
import type { Me } from '@ascenso/contracts';
import type { Connection } from '../db/connect.ts';
import type { AppContext } from './context.ts';
import { UserError } from './errors.ts';
import { withoutCodes } from './hidden-codes.ts';
import { AS_OF_NOW, type Kept } from './kept.ts';
import { parseOrThrow } from './parse.ts';
import { whoAsks } from './sessions.ts';

type Method = 'get' | 'post' | 'patch' | 'put' | 'delete';

/** What a handler is called with once the session, the role and the body have been checked. */
export interface Call<B> {
  me: Me;
  /** Workspace of the session: the first key of every query. */
  ws: string;
  params: Record<string, string>;
  query: Record<string, string>;
  body: B;
  req: Request;
  res: Response;
  /** Where to read what may be a little old; how old it is, is told with the answer. */
  reads: () => Promise<Connection>;
  /** A count that may be a little old where there are many people; how old it is, is told with the answer. */
  kept: Kept;
  /** Aborted when whoever asked has gone before the answer. */
  gone: AbortSignal;
}

export interface RouteInfo {
  method: Method;
  path: string;
}

/** Every route made with `route`, once, so that a test can walk them all. */
export const routeTable: RouteInfo[] = [];

const RANK = { reviewer: 0, editor: 1, owner: 2 };

/**
 * Lets through only somebody who is signed in and may edit: before a body is read that is larger than others, since a
 * stranger must not make us read anything.
 */
export const editorsOnly =
  (ctx: AppContext): RequestHandler =>
  async (req, _res, next) => {
    const me = await whoAsks(ctx.connection.db, req);
    if (!me) throw new UserError(401, 'signed-out', 'You are signed out. Sign in to go on.');
    if (RANK[me.user.role] < RANK.editor)
      throw new UserError(403, 'not-allowed', `Your role is ${me.user.role}: ask an editor to do this.`);
    next();
  };

/** Lets each user through so many times a minute; throws for one time more. */
function eachUser(limit: number): (user: string, req: Request, res: Response) => Promise<void> {
  const users = new WeakMap<Request, string>();
  const limiter = rateLimit({
    windowMs: 60_000,
    limit,
    keyGenerator: (req) => users.get(req) ?? '',
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: () => {
      throw new UserError(429, 'too-many', 'That is asked for too often. Wait a minute, then try again.');
    },
  });
  return (user, req, res) => {
    users.set(req, user);
    return new Promise((resolve, reject) => {
      const next = (error?: unknown) => (error instanceof Error ? reject(error) : resolve());
      Promise.resolve(limiter(req, res, next)).catch(reject);
    });
  };
}

/** Tells how old an answer is, ms: as its oldest part, in whole seconds, as RFC 9111 (5.1) has it. */
function tellAge(res: Response, ms: number): void {
  const seconds = Math.max(Math.round(ms / 1000), Number(res.getHeader('Age') ?? 0));
  if (seconds > 0) res.setHeader('Age', String(seconds));
}

const isEmpty = (body: unknown) => typeof body === 'object' && body !== null && Object.keys(body).length === 0;

/** Registers a route of the web application: session needed, role checked for changes, body parsed by its schema. */
export function route<B = undefined>(
  router: Router,
  ctx: AppContext,
  method: Method,
  path: string,
  options: { body?: z.ZodType<B>; role?: Me['user']['role']; perMinute?: number },
  handler: (call: Call<B>) => Promise<unknown>,
): void {
  if (!routeTable.some((r) => r.method === method && r.path === path)) routeTable.push({ method, path });
  const limited = options.perMinute ? eachUser(options.perMinute) : null;
  const needed = options.role ?? (method === 'get' ? 'reviewer' : 'editor');
  const run: RequestHandler = async (req, res) => {
    const me = await whoAsks(ctx.connection.db, req);
    if (!me) throw new UserError(401, 'signed-out', 'You are signed out. Sign in to go on.');
    if (RANK[me.user.role] < RANK[needed])
      throw new UserError(403, 'not-allowed', `Your role is ${me.user.role}: ask an ${needed} to do this.`);
    await limited?.(me.user.id, req, res);
    const params = Object.fromEntries(Object.entries(req.params).map(([k, v]) => [k, String(v)]));
    for (const [name, value] of Object.entries(params))
      if (/id$/i.test(name) && !/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(value))
        throw new UserError(404, 'not-found', 'There is nothing under that address.');
    const query = Object.fromEntries(Object.entries(req.query).map(([k, v]) => [k, String(v)]));
    if (method === 'patch' && isEmpty(req.body))
      throw new UserError(422, 'invalid', 'Nothing is named that should change. Name a field with its new value.');
    const body = (options.body ? parseOrThrow(options.body, req.body) : undefined) as B;
    const leaving = new AbortController();
    res.once('close', () => res.writableFinished || leaving.abort());
    const { signal: gone } = leaving;
    try {
      const reads = async () => {
        const { connection, behind } = await ctx.reading.from();
        tellAge(res, behind);
        return connection;
      };
      const ws = me.workspace.id;
      const kept: Kept = async (what, make, most) => {
        const { answer, age } = await ctx.counts.get(`${ws}/${what}`, make, most);
        // What was counted then may have been read from a copy that was as far behind.
        if (age > AS_OF_NOW) tellAge(res, age + (await ctx.reading.from()).behind);
        return answer;
      };
      const answer = await handler({ me, ws, params, query, body, req, res, reads, kept, gone });
      // One door for all answers: which of them name a code is nothing to remember at each route.
      const told = me.user.role === 'reviewer' ? await withoutCodes(ctx.connection.db, ws, answer) : answer;
      if (!res.headersSent) res.json(told ?? {});
    } catch (error) {
      // Whoever breaks a download off has gone: that is no fault of ours, and there is nobody to tell.
      if (!(gone.aborted && error instanceof Error && error.name === 'AbortError')) throw error;
    }
  };
  router[method](path, run);
}
