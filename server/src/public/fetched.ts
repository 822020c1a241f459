import type { Request } from 'express';

/**
 * Who fetches pictures without anybody reading, by user agent. Common practice, no published source; from memory, November
 * 2026. The privacy protection of one maker of phones fetches every picture as the mail arrives, and names itself by these
 * eleven characters and nothing more. Proxies that fetch when somebody opens the mail ("via ggpht.com GoogleImageProxy",
 * "YahooMailProxy") are not here: behind them somebody reads.
 */
const AHEAD: readonly RegExp[] = [/^Mozilla\/5\.0$/];

/** Whether something was fetched ahead, by a browser that says so or by a mail proxy that is known for it. */
export const fetchedAhead = (req: Pick<Request, 'headers'>): boolean =>
  /prefetch|preview/i.test(
    `${req.headers['sec-purpose'] ?? ''} ${req.headers.purpose ?? ''} ${req.headers['x-purpose'] ?? ''}`,
  ) || AHEAD.some((agent) => agent.test(req.headers['user-agent'] ?? ''));
