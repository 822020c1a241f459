import { stringify } from 'csv-stringify';
import { Router } from 'express';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { endings, suppressRequest } from '@ascenso/contracts';
import { z } from 'zod';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route } from '../app/routes.ts';
import { suppressedAddresses, suppressedPage, type SuppressedFilter } from '../db/suppressed.ts';
import { CSV } from '../jobs/csv.ts';
import { release, suppress } from '../people/suppressing.ts';

const PAGE = 100;

const asked = z.object({
  q: z.string().trim().max(320).optional(),
  why: z.enum(endings).optional(),
  /** Address and id of the row that the page follows. */
  after: z
    .string()
    .max(1000)
    .refine((t) => /^\["[^"]*","[^"]*"\]$/.test(t), 'This page is not there: begin anew.')
    .optional(),
});

async function* lines(pages: ReturnType<typeof suppressedAddresses>) {
  yield ['email', 'why', 'since'];
  for await (const page of pages) for (const r of page) yield [r.email, r.why, new Date(r.at).toISOString()];
}

/** Who gets no mail: seen, put in by hand or from a file, and out as a file. */
export function suppressedRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const filterOf = (query: Record<string, string>): SuppressedFilter & { after?: string } => parseOrThrow(asked, query);

  route(router, ctx, 'get', '/suppressed', {}, ({ ws, query }) => {
    const { after = null, ...filter } = filterOf(query);
    return suppressedPage(db, ws, filter, after, PAGE);
  });

  const exported = { role: 'editor', perMinute: 10 } as const;
  route(router, ctx, 'get', '/suppressed.csv', exported, async ({ ws, query, res, gone }) => {
    const filter = filterOf(query);
    res.type('text/csv').attachment('no-mail.csv');
    await pipeline(Readable.from(lines(suppressedAddresses(db, ws, filter))), stringify(CSV), res, { signal: gone });
  });

  route(router, ctx, 'post', '/suppressed', { body: suppressRequest }, async ({ ws, me, body }) => {
    const source = { how: 'hand', label: me.user.name, words: '' } as const;
    return { people: await suppress(db, ws, body.addresses, source, await businessNow(db)) };
  });

  route(router, ctx, 'delete', '/suppressed/:hash', {}, async ({ ws, params }) => {
    if (!(await release(db, ws, params.hash as string)))
      throw new UserError(
        409,
        'not-by-hand',
        'Only an address that was put here by hand, and that nobody has, is taken off.',
      );
    return {};
  });
  return router;
}
