import express, { type Express, type RequestHandler } from 'express';
import helmet from 'helmet';
import { apiRouter } from '../api/index.ts';
import { intakeRouter } from '../intake/index.ts';
import { publicRouter } from '../public/index.ts';
import type { AppContext } from './context.ts';
import { jsonErrors, pageErrors } from './error-answers.ts';
import { UserError } from './errors.ts';
import { healthRouter } from './health.ts';
import { requestsAnswered } from './metrics.ts';
import { SECURE } from './sessions.ts';

/** Changes come from our own pages only: the browser says from where (Fetch Metadata, and Origin where it is sent). */
const sameOrigin: RequestHandler = (req, _res, next) => {
  if (req.method === 'GET' || req.method === 'HEAD') return next();
  const site = req.headers['sec-fetch-site'];
  const origin = req.headers.origin;
  const foreign =
    (site !== undefined && site !== 'same-origin') ||
    (origin !== undefined && (!URL.canParse(origin) || new URL(origin).host !== req.host));
  if (foreign) throw new UserError(403, 'foreign-origin', 'This change came from another site and was refused.');
  next();
};

/** The whole web process: doors for readers' mail programs, the intake, the API, and the built pages. */
export function createServer(ctx: AppContext, pages: string | null): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', ctx.trustProxy);
  const https = ctx.sending.base.startsWith('https:');
  app.set(SECURE, https);
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'default-src': ["'self'"],
          'img-src': ["'self'", 'data:', 'blob:'],
          'style-src': ["'self'", "'unsafe-inline'"],
          // The dictionaries are read by Hunspell, which is WebAssembly.
          'script-src': ["'self'", "'wasm-unsafe-eval'"],
          'worker-src': ["'self'", 'blob:'],
          'frame-src': ["'self'"],
          'object-src': ["'none'"],
          'base-uri': ["'none'"],
          'frame-ancestors': ["'self'"],
          'form-action': ["'self'"],
          'upgrade-insecure-requests': null,
        },
      },
      // A year, as RFC 6797 shows it; a loopback address has no certificate.
      strictTransportSecurity: https ? { maxAge: 31_536_000, includeSubDomains: false } : false,
      referrerPolicy: { policy: 'same-origin' },
    }),
  );
  app.use((_req, res, next) => {
    res.once('finish', () => requestsAnswered.inc({ status: `${Math.floor(res.statusCode / 100)}xx` }));
    next();
  });
  app.use(healthRouter(ctx), jsonErrors(ctx));
  app.use(publicRouter(ctx), pageErrors(ctx));
  app.use('/intake', intakeRouter(ctx));
  app.use('/api', sameOrigin, apiRouter(ctx));
  if (pages) {
    app.use(express.static(pages, { index: false, maxAge: '1h' }));
    app.get('/{*any}', (_req, res) => res.sendFile('index.html', { root: pages }));
  }
  app.use(jsonErrors(ctx));
  return app;
}
