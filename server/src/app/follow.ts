import type { FollowedLink } from '@ascenso/contracts';
import { isPersonal } from '@ascenso/core';
import { invalid, UserError } from './errors.ts';

/** Longer than this an address of ours does not take, ms. */
const PATIENCE = 5000;
/** A chain of redirects that is longer leads nowhere (browsers stop at 20: Fetch standard, HTTP-redirect fetch). */
const HOPS = 20;

type Verdict = Omit<FollowedLink, 'address'>;

const broken = (words: string): Verdict => ({ state: 'broken', words });

/** Where an address led: to an answer of ours, or to a verdict. */
type Reached = { answer: Response; at: URL } | { verdict: Verdict };

/**
 * Goes where an address leads, through redirects. Only origins of `own` (base addresses) are asked; of others nothing can be
 * said without a network. `file:ID` is a file that we host, at the first of `own`. Never throws.
 */
async function reach(address: string, own: readonly string[]): Promise<Reached> {
  const origins = own.map((base) => new URL(base).origin);
  let next: URL;
  try {
    next = new URL(address.startsWith('file:') ? `${own[0]}/f/${address.slice(5)}` : address);
  } catch {
    return { verdict: broken('This is no address.') };
  }
  for (let hop = 0; hop < HOPS; hop++) {
    if (!/^https?:$/.test(next.protocol)) return { verdict: broken(`Leads to ${next.protocol}//, which is no page.`) };
    if (!origins.includes(next.origin))
      return {
        verdict:
          hop === 0
            ? { state: 'elsewhere', words: 'Not ours: open it once yourself.' }
            : { state: 'opens', words: `Leads on to ${next.host}.` },
      };
    if (isPersonal(next.href))
      return {
        verdict: {
          state: 'personal',
          words: 'Copied from an email to one person: it would count as theirs. Use the page it leads to.',
        },
      };
    try {
      const answer = await fetch(next, { redirect: 'manual', signal: AbortSignal.timeout(PATIENCE) });
      if (answer.status < 300) return { answer, at: next };
      await answer.body?.cancel();
      const onward = answer.headers.get('location');
      if (answer.status >= 400 || !onward)
        return { verdict: broken(`Followed: there is nothing there (${answer.status}).`) };
      next = new URL(onward, next);
    } catch {
      return { verdict: broken(`Followed: ${next.host} does not answer.`) };
    }
  }
  return { verdict: broken('Followed: it leads round in a circle.') };
}

/** What stands behind an address, by the same door. Never throws. */
export async function follow(address: string, own: readonly string[]): Promise<Verdict> {
  const reached = await reach(address, own);
  if ('verdict' in reached) return reached.verdict;
  await reached.answer.body?.cancel();
  return { state: 'opens', words: 'Followed: it opens.' };
}

/** What is read of a page or a picture at most, bytes. */
const MOST_BYTES = 10_000_000;

/** The content behind an address and where it was found, by the same door. Throws UserError, naming `field`. */
export async function fetchOwn(
  address: string,
  own: readonly string[],
  field: string,
): Promise<{ content: Buffer; mime: string; at: string }> {
  const reached = await reach(address, own);
  if ('verdict' in reached)
    throw invalid(
      field,
      reached.verdict.state === 'broken'
        ? `${reached.verdict.words} Look at the address.`
        : 'Only pages of your own site and shop can be read: write the words yourself.',
    );
  const { answer, at } = reached;
  const chunks: Uint8Array[] = [];
  let size = 0;
  try {
    for await (const chunk of (answer.body ?? []) as AsyncIterable<Uint8Array>) {
      size += chunk.length;
      if (size > MOST_BYTES) throw invalid(field, 'The page is larger than 10 MB: write the words yourself.');
      chunks.push(chunk);
    }
  } catch (error) {
    if (error instanceof UserError) throw error;
    throw invalid(field, `${at.host} broke off in the middle. Try again.`);
  }
  return { content: Buffer.concat(chunks), mime: answer.headers.get('content-type') ?? '', at: at.href };
}
