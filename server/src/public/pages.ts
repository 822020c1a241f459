import express, { type Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import { visitRequest } from '@ascenso/contracts';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { SITE_SCRIPT } from '../app/site-script.ts';
import { pageReached, type Reached } from '../people/reaching.ts';

/** Pages told from one network in a minute. */
const PER_MINUTE = 120;

const REFUSALS: Partial<Record<Reached, string>> = {
  'no-site': 'site: this is not the name of a workspace here. Take the snippet from People, Events and keys.',
  'other-host': 'page: its host is not one of the workspace. Add it under People, Events and keys.',
};

/** The script for pages of one's own, and the door to which it tells that one was reached. */
export function pageRoutes(router: Router, ctx: AppContext): void {
  const { db } = ctx.connection;

  router.get('/site.js', (_req, res) => {
    res
      .set({ 'Cross-Origin-Resource-Policy': 'cross-origin', 'Cache-Control': 'public, max-age=3600' })
      .type('text/javascript')
      .send(SITE_SCRIPT);
  });

  const limited = rateLimit({ windowMs: 60_000, limit: PER_MINUTE, standardHeaders: 'draft-8', legacyHeaders: false });
  // A beacon is plain text, so that a browser asks nobody before it sends it.
  router.post('/v', limited, express.text({ type: () => true, limit: '8kb' }), async (req, res) => {
    res.set({ 'Access-Control-Allow-Origin': '*', 'Cache-Control': 'no-store' });
    const told = visitRequest.safeParse(parsed(req.body));
    if (!told.success) {
      const [issue] = told.error.issues;
      res.status(422).json({ error: `${issue?.path.join('.') || 'body'}: ${issue?.message ?? 'not readable'}` });
      return;
    }
    const clocks = { now: await businessNow(db), system: Date.now() };
    const became = await pageReached(db, ctx.sending.secret, told.data, clocks);
    const refusal = REFUSALS[became];
    // Whether somebody is known is nobody's business: both are answered alike.
    if (refusal) res.status(422).json({ error: refusal });
    else res.status(204).end();
  });
}

function parsed(body: unknown): unknown {
  try {
    return JSON.parse(String(body));
  } catch {
    return undefined;
  }
}
