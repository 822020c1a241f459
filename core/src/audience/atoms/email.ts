import { z } from 'zod';
import type { Asking } from '../asking.ts';
import { plain, type AtomKind } from './kind.ts';

const schema = z.object({
  kind: z.literal('email'),
  step: z.string(),
  what: z.enum(['opened', 'clicked']),
  /** Of a click: the address of the link, as it is written in the email. Any link where it is absent. */
  link: z.string().max(2000).optional(),
  did: z.boolean(),
});
type EmailAtom = z.infer<typeof schema>;

/** When an email was opened or clicked as an atom asks, epoch ms, or null. A click is an opening too. */
function readAt(atom: EmailAtom, { facts, now }: Asking): number | null {
  const email = facts.emails[atom.step];
  const clicked = atom.link === undefined ? email?.clickedAt : email?.links?.[atom.link];
  const at = atom.what === 'clicked' ? clicked : (email?.openedAt ?? email?.clickedAt);
  return at != null && at <= now ? at : null;
}

export const emailAtom: AtomKind<'email', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, asking) => (readAt(atom, asking) !== null) === atom.did,
  since: (atom, asking) => (atom.did ? readAt(atom, asking) : null),
  words: ({ step, what, link, did }, names) => {
    if (what === 'opened') return `${did ? 'opened' : 'did not open'} “${names.step(step)}”`;
    const which = link === undefined ? '' : `“${names.file(link.replace(/^file:/, ''))}” `;
    return `${did ? 'clicked' : 'did not click'} ${which}in “${names.step(step)}”`;
  },
  isOpen: ({ step }, { steps }) => !steps.has(step),
  asks: ({ step, link }) => ({ steps: [step], emails: true, links: link !== undefined }),
  ofVisit: () => true,
  turns: () => [],
  about: 'steps',
  sample: ({ steps }, pick) => ({
    kind: 'email',
    step: pick(steps),
    what: pick(['opened', 'clicked']),
    did: pick([true, false]),
  }),
};
