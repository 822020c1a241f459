import type { FollowedLink } from '@ascenso/contracts';
import { isPersonal } from '@ascenso/core';

/** Longer than this an address of ours does not take, ms. */
const PATIENCE = 5000;
/** A chain of redirects that is longer leads nowhere (browsers stop at 20: Fetch standard, HTTP-redirect fetch). */
const HOPS = 20;

type Verdict = Omit<FollowedLink, 'address'>;

const broken = (words: string): Verdict => ({ state: 'broken', words });

/**
 * What stands behind an address. Only origins of `own` (base addresses) are asked; of others nothing can be said
 * without a network. `file:ID` is a file that we host, at the first of `own`. Never throws.
 */
export async function follow(address: string, own: readonly string[]): Promise<Verdict> {
  const origins = own.map((base) => new URL(base).origin);
  let next: URL;
  try {
    next = new URL(address.startsWith('file:') ? `${own[0]}/f/${address.slice(5)}` : address);
  } catch {
    return broken('This is no address.');
  }
  for (let hop = 0; hop < HOPS; hop++) {
    if (!/^https?:$/.test(next.protocol)) return broken(`Leads to ${next.protocol}//, which is no page.`);
    if (!origins.includes(next.origin))
      return hop === 0
        ? { state: 'elsewhere', words: 'Not ours: open it once yourself.' }
        : { state: 'opens', words: `Leads on to ${next.host}.` };
    if (isPersonal(next.href))
      return {
        state: 'personal',
        words: 'Copied from an email to one person: it would count as theirs. Use the page it leads to.',
      };
    try {
      const answer = await fetch(next, { redirect: 'manual', signal: AbortSignal.timeout(PATIENCE) });
      await answer.body?.cancel();
      const onward = answer.headers.get('location');
      if (answer.status < 300) return { state: 'opens', words: 'Followed: it opens.' };
      if (answer.status >= 400 || !onward) return broken(`Followed: there is nothing there (${answer.status}).`);
      next = new URL(onward, next);
    } catch {
      return broken(`Followed: ${next.host} does not answer.`);
    }
  }
  return broken('Followed: it leads round in a circle.');
}
