import express, { Router } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import { signInRequest } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { UserError } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { route } from '../app/routes.ts';
import { Guesses } from '../app/guesses.ts';
import { signIn, signOut, whoAsks } from '../app/sessions.ts';
import { accountRouter } from './account.ts';
import { attributesRouter } from './attributes.ts';
import { behindRouter } from './behind.ts';
import { calendarRouter } from './calendar.ts';
import { contentRouter } from './content.ts';
import { findRouter } from './find.ts';
import { formsRouter } from './forms.ts';
import { importsRouter } from './imports.ts';
import { libraryRouter } from './library.ts';
import { linksRouter } from './links.ts';
import { lettersRouter } from './letters.ts';
import { labelsRouter } from './labels.ts';
import { listsRouter } from './lists.ts';
import { archiveRouter } from './archive.ts';
import { siteRouter } from './site.ts';
import { suppressedRouter } from './suppressed.ts';
import { looksRouter } from './looks.ts';
import { offersRouter } from './offers.ts';
import { outsideRouter } from './outside.ts';
import { peopleRouter } from './people.ts';
import { resultsRouter } from './results.ts';
import { reviewRouter } from './review.ts';
import { runningRouter } from './running.ts';
import { seenRouter } from './seen.ts';
import { segmentsRouter } from './segments.ts';
import { sequencesRouter } from './sequences.ts';
import { versionsRouter } from './versions.ts';

/** The account that a sign-in is for, as far as its body says. */
const accountOf = (body: unknown): string =>
  typeof body === 'object' && body !== null && 'email' in body
    ? String(body.email).trim().toLowerCase().slice(0, 254)
    : '';

const hasBody = (req: express.Request): boolean =>
  req.headers['transfer-encoding'] !== undefined || Number(req.headers['content-length'] ?? 0) > 0;

/** The web application's door: a session cookie, one router per resource. */
export function apiRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  router.use((_req, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  // A stranger makes us read nothing but a sign-in: who asks is known before a body is read. An imported sequence brings its
  // pictures along: its route reads the body itself.
  const json = express.json({ limit: '1mb' });
  const signInOnly = express.json({ limit: '10kb' });
  router.use(async (req, res, next) => {
    if (req.path === '/session') return signInOnly(req, res, next);
    if (req.path === '/sequences/import') return next();
    if (hasBody(req) && !(await whoAsks(db, req)))
      throw new UserError(401, 'signed-out', 'You are signed out. Sign in to go on.');
    json(req, res, next);
  });
  const guesses = new Guesses(ctx.sending.secret);
  const limit = rateLimit({
    windowMs: 15 * 60_000,
    limit: 20,
    // By account and address together: who knows an account cannot lock its owner out from elsewhere, and neither can
    // requests that are no try at all.
    keyGenerator: (req) => `${ipKeyGenerator(req.ip ?? '')} ${accountOf(req.body)}`,
    skipSuccessfulRequests: true,
    requestWasSuccessful: (_req, res) => res.statusCode !== 401,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: () => {
      throw new UserError(429, 'too-many', 'Too many tries. Wait a quarter of an hour, then try again.');
    },
  });
  router.post('/session', limit, async (req, res) => {
    const { email, password } = parseOrThrow(signInRequest, req.body);
    await guesses.slow(email, req);
    try {
      await signIn(db, { req, res }, email, password);
    } catch (error) {
      if (error instanceof UserError && error.code === 'wrong-sign-in') guesses.wrong(email);
      throw error;
    }
    guesses.right(email, res);
    res.json({});
  });
  router.delete('/session', async (req, res) => {
    await signOut(db, req, res);
    res.json({});
  });
  route(router, ctx, 'get', '/session', {}, ({ me }) => Promise.resolve(me));
  router.use(
    accountRouter(ctx),
    sequencesRouter(ctx),
    runningRouter(ctx),
    looksRouter(ctx),
    versionsRouter(ctx),
    attributesRouter(ctx),
    behindRouter(ctx),
    calendarRouter(ctx),
    formsRouter(ctx),
    importsRouter(ctx),
    segmentsRouter(ctx),
    peopleRouter(ctx),
    seenRouter(ctx),
    contentRouter(ctx),
    linksRouter(ctx),
    findRouter(ctx),
    labelsRouter(ctx),
    listsRouter(ctx),
    suppressedRouter(ctx),
    siteRouter(ctx),
    lettersRouter(ctx),
    archiveRouter(ctx),
    resultsRouter(ctx),
    reviewRouter(ctx),
    offersRouter(ctx),
    libraryRouter(ctx),
    outsideRouter(ctx),
  );
  router.use(() => {
    throw new UserError(404, 'not-found', 'There is nothing under that address.');
  });
  return router;
}
