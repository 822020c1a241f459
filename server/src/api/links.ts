import { Router } from 'express';
import { followLinksRequest, type FollowedLink } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { route } from '../app/routes.ts';
import { follow } from '../app/follow.ts';

/** Whether links lead somewhere, asked for by whoever writes the email. */
export function linksRouter(ctx: AppContext): Router {
  const router = Router();
  const own = [ctx.sending.base, ctx.shopUrl].filter((address) => address !== null);
  route(router, ctx, 'post', '/links/follow', { body: followLinksRequest }, async ({ body }) => {
    const links: FollowedLink[] = await Promise.all(
      body.addresses.map(async (address) => ({ address, ...(await follow(address, own)) })),
    );
    return { links };
  });
  return router;
}
