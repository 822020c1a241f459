import express, { type ErrorRequestHandler, type Express, type RequestHandler } from 'express';
import helmet from 'helmet';
import { CommandError } from '@ascenso/core';
import { apiRouter } from '../api/index.ts';
import { intakeRouter } from '../intake/index.ts';
import { publicRouter } from '../public/index.ts';
import type { AppContext } from './context.ts';
import { UserError } from './errors.ts';

/** Changes come from our own pages only: the browser says from where (Fetch Metadata, and Origin where it is sent). */
const sameOrigin: RequestHandler = (req, _res, next) => {
  if (req.method === 'GET' || req.method === 'HEAD') return next();
  const site = req.headers['sec-fetch-site'];
  const origin = req.headers.origin;
  const foreign =
    (site !== undefined && site !== 'same-origin') ||
    (origin !== undefined && (!URL.canParse(origin) || new URL(origin).host !== req.headers.host));
  if (foreign) throw new UserError(403, 'foreign-origin', 'This change came from another site and was refused.');
  next();
};

/** The one place where errors become answers. People's data never reaches the log. */
const errors =
  (ctx: AppContext): ErrorRequestHandler =>
  (error, req, res, next) => {
    if (res.headersSent) return next(error);
    const known =
      error instanceof UserError
        ? error
        : error instanceof CommandError
          ? new UserError(422, 'invalid', error.message, error.field)
          : bodyError(error);
    if (known)
      return res.status(known.status).json({ error: { code: known.code, message: known.message, field: known.field } });
    // Drizzle puts all parameters into its message: the cause alone tells enough.
    const cause: unknown = (error as Error).cause ?? error;
    ctx.log.error(
      { path: req.path, error: String((cause as Error).message ?? cause), stack: (cause as Error).stack },
      'request failed',
    );
    res.status(500).json({
      error: { code: 'internal', message: 'Something went wrong on our side. Nothing was changed. Try again.' },
    });
  };

function bodyError(error: unknown): UserError | null {
  const type = (error as { type?: string }).type;
  if (type === 'entity.too.large')
    return new UserError(413, 'too-large', 'The body is too large: send at most 1 MB, in smaller batches.');
  if (type === 'entity.parse.failed')
    return new UserError(400, 'not-json', 'The body is not valid JSON. Check brackets, commas and quotes.');
  if ((error as { code?: string }).code === 'LIMIT_FILE_SIZE')
    return new UserError(413, 'too-large', 'That file is over 10 MB. Make it smaller first.', 'file');
  // PostgreSQL keeps every character but this one, in text (22021) and in JSON (22P05).
  const cause = ((error as Error).cause ?? error) as { code?: string };
  if (cause.code === '22021' || cause.code === '22P05')
    return new UserError(
      422,
      'invalid',
      'A text holds the NUL character (\\u0000), which cannot be kept. Take it out.',
    );
  return null;
}

/** The whole web process: doors for readers' mail programs, the intake, the API, and the built pages. */
export function createServer(ctx: AppContext, pages: string | null): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'default-src': ["'self'"],
          'img-src': ["'self'", 'data:', 'blob:'],
          'style-src': ["'self'", "'unsafe-inline'"],
          'script-src': ["'self'"],
          'worker-src': ["'self'", 'blob:'],
          'frame-src': ["'self'"],
          'object-src': ["'none'"],
          'base-uri': ["'none'"],
          'frame-ancestors': ["'self'"],
          'form-action': ["'self'"],
          'upgrade-insecure-requests': null,
        },
      },
      strictTransportSecurity: false,
      referrerPolicy: { policy: 'same-origin' },
    }),
  );
  app.use(publicRouter(ctx));
  app.use('/intake', intakeRouter(ctx));
  app.use('/api', sameOrigin, apiRouter(ctx));
  if (pages) {
    app.use(express.static(pages, { index: false, maxAge: '1h' }));
    app.get('/{*any}', (_req, res) => res.sendFile('index.html', { root: pages }));
  }
  app.use(errors(ctx));
  return app;
}
