import { z } from 'zod';

// Pages of one's own that tell who has reached them.

/** The event that a page reached is kept as. */
export const PAGE_EVENT = 'page.reached';

/** Hosts of the sites, as foldwell.example: what lies below one belongs to it. */
export const siteRequest = z.strictObject({
  hosts: z
    .array(
      z
        .string()
        .trim()
        .toLowerCase()
        .regex(
          /^(localhost|([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z0-9-]{2,63}|\d{1,3}(\.\d{1,3}){3})(:\d{1,5})?$/,
          'Write a host as foldwell.example, without https:// and without a path.',
        ),
    )
    .max(20, '20 hosts at most.'),
});

export interface SiteAnswer {
  hosts: string[];
  /** What goes into the head of every page. */
  snippet: string;
  /** Pages reached so far by people who are known, and when last (epoch ms, null for never). */
  pages: number;
  last: number | null;
}

/** What the script tells. */
export const visitRequest = z.object({
  site: z.string().max(200),
  who: z.string().max(400),
  page: z.url({ protocol: /^https?$/, error: 'The address of a page begins with https:// or http://.' }).max(2000),
  title: z.string().max(2000).optional().default(''),
});
