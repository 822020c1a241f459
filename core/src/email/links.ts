import { blockParts } from './blocks/index.ts';
import type { EmailLink } from './masks.ts';
import { partsOfRich } from './rich.ts';
import type { Email } from './schema.ts';

/** Links that an author put into an email, one per address: what a condition can ask about. */
export function linksOf(email: Email): EmailLink[] {
  const all = email.blocks.flatMap((b) => {
    const { links, rich } = blockParts(b);
    return [...links, ...rich.flatMap((r) => partsOfRich(r.doc).links.map((address) => ({ address, label: address })))];
  });
  return all.filter((l, i) => l.address !== '' && all.findIndex((k) => k.address === l.address) === i);
}
