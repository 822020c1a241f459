import { Router } from 'express';
import { followLinksRequest, pageRequest, type DescribedPage, type FollowedLink } from '@ascenso/contracts';
import { describedBy } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid } from '../app/errors.ts';
import { fetchOwn, follow } from '../app/follow.ts';
import { route } from '../app/routes.ts';
import { keepFile } from '../db/files.ts';

/** Whether links lead somewhere, and what their pages say of themselves, asked for by whoever writes the email. */
export function linksRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const own = [ctx.sending.base, ctx.shopUrl].filter((address) => address !== null);
  route(router, ctx, 'post', '/links/follow', { body: followLinksRequest }, async ({ body }) => {
    const links: FollowedLink[] = await Promise.all(
      body.addresses.map(async (address) => ({ address, ...(await follow(address, own)) })),
    );
    return { links };
  });

  /** A picture that a page names, as a file of the library; null where there is none to be had. */
  const pictureOf = async (ws: string, address: string): Promise<string | null> => {
    if (address === '') return null;
    try {
      const { content, at } = await fetchOwn(address, own, 'address');
      const name = decodeURIComponent(new URL(at).pathname.split('/').pop() ?? '') || 'picture';
      const { id } = await keepFile(db, ws, name, content, await businessNow(db));
      return id;
    } catch {
      // The words are worth having without it.
      return null;
    }
  };

  route(router, ctx, 'post', '/links/describe', { body: pageRequest }, async ({ ws, body }): Promise<DescribedPage> => {
    const { content, mime, at } = await fetchOwn(body.address, own, 'address');
    if (!/^(text\/html|application\/xhtml\+xml)\b/i.test(mime))
      throw invalid('address', 'There is no page behind this address, but a file: write the words yourself.');
    const said = describedBy(content.toString('utf8'), at);
    if (said.title === '' && said.summary === '')
      throw invalid('address', 'The page says nothing of itself: write the words yourself.');
    return { ...said, file: body.keep ? await pictureOf(ws, said.picture) : null };
  });
  return router;
}
