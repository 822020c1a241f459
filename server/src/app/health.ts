import { timingSafeEqual } from 'node:crypto';
import { Router, type Request } from 'express';
import ipaddr from 'ipaddr.js';
import { Gauge } from 'prom-client';
import { standing } from '../db/standing.ts';
import { businessNow, engineAway } from './clock.ts';
import type { AppContext } from './context.ts';
import { UserError } from './errors.ts';
import { sha256 } from './hash.ts';
import { told } from './log.ts';
import { lossOfLog } from './log-file.ts';
import { registry } from './metrics.ts';

/** Figures of the whole installation, asked of the database when somebody looks. */
function gauges(ctx: AppContext): () => Promise<void> {
  const gauge = <T extends string = never>(name: string, help: string, labelNames: T[] = []): Gauge<T> => {
    registry.removeSingleMetric(name);
    return new Gauge({ name, help, labelNames, registers: [registry] });
  };
  const due = gauge('ascenso_visits_due', 'Passages that are due and wait for an engine.');
  const oldest = gauge(
    'ascenso_oldest_due_seconds',
    'How long the longest of them has been due, on the business clock.',
  );
  const queued = gauge('ascenso_sends_queued', 'Emails that are due and wait to be sent.');
  const aside = gauge('ascenso_set_aside', 'Rows that are left for later, since they cannot be handled.', ['kind']);
  const halted = gauge('ascenso_senders_halted', 'Senders whose mail waits for somebody to have a look.');
  const away = gauge('ascenso_engine_away_seconds', 'For how long no engine has been at work; 0 while one is.');
  return async () => {
    const { db } = ctx.connection;
    const now = await businessNow(db);
    const found = await standing(db, now);
    due.set(found.due);
    oldest.set(found.oldestDue === null ? 0 : Math.max(0, now - found.oldestDue) / 1000);
    queued.set(found.queued);
    aside.reset();
    for (const { kind, n } of found.aside) aside.set({ kind }, n);
    halted.set(found.halted);
    away.set(((await engineAway(db)) ?? 0) / 1000);
  };
}

const same = (a: string, b: string) => timingSafeEqual(Buffer.from(sha256(a)), Buffer.from(sha256(b)));

/** Whether somebody may see the figures: with the token, or from this machine itself and through no proxy. */
function mayLook(req: Request, token: string | null): boolean {
  const given = /^Bearer (\S+)$/i.exec(req.headers.authorization ?? '')?.[1];
  if (token !== null) return given !== undefined && same(given, token);
  const passed = req.headers['x-forwarded-for'] ?? req.headers.forwarded ?? req.headers.via;
  const from = req.socket.remoteAddress ?? '';
  return passed === undefined && ipaddr.isValid(from) && ipaddr.process(from).range() === 'loopback';
}

/** How the installation is: `/health` that this process lives, `/ready` that it can work, `/metrics` in figures. */
export function healthRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const measure = gauges(ctx);

  router.get('/health', (_req, res) => {
    res.json({ alive: true });
  });

  router.get('/ready', async (_req, res) => {
    try {
      await businessNow(db);
      const lost = lossOfLog();
      // It works without its log, and whoever asks is told.
      res.json({ ready: true, ...(lost ? { log: `cannot be written: ${lost.why}`, since: lost.since } : {}) });
    } catch (error) {
      ctx.log.warn(told(error), 'not ready');
      res.status(503).json({ ready: false, why: 'The database does not answer.' });
    }
  });

  router.get('/metrics', async (req, res) => {
    if (!mayLook(req, ctx.metricsToken))
      throw new UserError(
        403,
        'not-allowed',
        'Figures are shown on the machine itself, or with "Authorization: Bearer <METRICS_TOKEN>".',
      );
    await measure();
    res.set('Content-Type', registry.contentType).send(await registry.metrics());
  });
  return router;
}
