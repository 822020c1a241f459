import { Router, type Request } from 'express';
import { readLinkRef } from '@ascenso/core';
import type { AppContext } from '../app/context.ts';
import { businessNow } from '../app/clock.ts';
import { hostedFile } from '../db/files.ts';
import { readSend, type Door, type SendKey } from '../mail/token.ts';
import { INCOMPLETE, sendPage } from '../app/page.ts';
import { leavingRoutes } from './leaving.ts';
import { formRoutes } from './forms.ts';
import { pageRoutes } from './pages.ts';
import { PIXEL, sendGif, timerRoutes } from './timers.ts';
import { fetchedAhead } from './fetched.ts';
import { programOf } from './reader-program.ts';
import { READER } from '../app/site-script.ts';
import { siteHosts } from '../db/site.ts';
import { namingReader, readerToken } from '../people/reaching.ts';
import { personOfSend } from '../db/sends.ts';
import { recordClick, recordOpen, targetOf } from '../people/readings.ts';

/** What a reader's mail program calls. GET counts openings and clicks; only POST changes what a person gets. */
export function publicRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const keyOf = (req: Request, door: Door): SendKey | null =>
    readSend(ctx.sending.secret, String(req.params.token ?? ''), door);

  router.get('/o/:token.gif', async (req, res) => {
    const key = keyOf(req, 'o');
    if (key && req.method !== 'HEAD')
      await recordOpen(db, key, await businessNow(db), fetchedAhead(req), programOf(req.get('user-agent') ?? ''));
    sendGif(res, PIXEL);
  });

  router.get('/c/:token/:n', async (req, res) => {
    const key = keyOf(req, 'c');
    const link = readLinkRef(String(req.params.n));
    const target = key && link ? await targetOf(db, key, link) : null;
    if (!key || !link || target === null) return sendPage(res, 404, ...INCOMPLETE);
    if (req.method !== 'HEAD')
      await recordClick(
        db,
        key,
        link,
        target,
        await businessNow(db),
        fetchedAhead(req),
        programOf(req.get('user-agent') ?? ''),
      );
    if (target === '')
      return sendPage(
        res,
        404,
        'This link has no address',
        '<p>The email was sent without one. You can reply to it to let them know.</p>',
      );
    if (target.startsWith('file:')) return res.redirect(302, `/f/${target.slice(5)}`);
    // A program that looks ahead is nobody.
    const person = fetchedAhead(req) ? undefined : await personOfSend(db, key);
    const token = () => readerToken(ctx.sending.secret, key.workspaceId, person ?? '', Date.now());
    res.redirect(302, person ? namingReader(target, await siteHosts(db, key.workspaceId), READER, token) : target);
  });

  router.get('/f/:id', async (req, res) => {
    const file = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(req.params.id)
      ? await hostedFile(db, req.params.id)
      : undefined;
    if (!file) return sendPage(res, 404, 'There is no such file', '<p>It may have been taken down.</p>');
    const inline = file.mime.startsWith('image/');
    res.set({
      'Content-Type': file.mime,
      'X-Content-Type-Options': 'nosniff',
      'Cache-Control': 'public, max-age=3600',
    });
    res.set('Cross-Origin-Resource-Policy', 'cross-origin');
    if (!inline) res.attachment(file.name);
    res.type(file.mime).send(file.content);
  });

  leavingRoutes(router, ctx);
  timerRoutes(router, ctx);
  formRoutes(router, ctx);
  pageRoutes(router, ctx);
  return router;
}
