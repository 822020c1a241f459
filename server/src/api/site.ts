import { Router } from 'express';
import { siteRequest, type SiteAnswer } from '@ascenso/contracts';
import { escapeHtml } from '@ascenso/core';
import type { AppContext } from '../app/context.ts';
import { route } from '../app/routes.ts';
import { pagesReached, setSiteHosts, siteHosts } from '../db/site.ts';
import { siteKey } from '../people/reaching.ts';

/** The workspace's own pages: their hosts, and the script that they carry. */
export function siteRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const { base, secret } = ctx.sending;

  route(router, ctx, 'get', '/site', {}, async ({ ws }): Promise<SiteAnswer> => ({
    hosts: await siteHosts(db, ws),
    snippet: `<script src="${escapeHtml(`${base}/site.js`)}" data-site="${escapeHtml(siteKey(secret, ws))}" defer></script>`,
    ...(await pagesReached(db, ws)),
  }));

  route(router, ctx, 'put', '/site', { body: siteRequest }, async ({ ws, body }) => {
    await setSiteHosts(db, ws, body.hosts);
    return {};
  });
  return router;
}
