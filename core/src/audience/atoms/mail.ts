import { z } from 'zod';
import { HOUR } from '../../time/index.ts';
import type { Asking } from '../asking.ts';
import type { MailFact } from '../facts.ts';
import { describeSince, sinceInstant, sinceSchema, turnsOfPeriod } from '../since.ts';
import { plain, type AtomKind } from './kind.ts';
import { sampleSince } from './sample.ts';

/** What they got, opened or clicked of the mail of every sequence, counted in emails. An opening counts when it was the first. */
const schema = z.object({
  kind: z.literal('mail'),
  what: z.enum(['got', 'opened', 'clicked']),
  /** In so many different emails at least. */
  times: z.int().min(1).max(999),
  since: sinceSchema,
  /** Of a click: where its link leads, as a host (with those below it), or a part of the link's words. */
  link: z.object({ by: z.enum(['host', 'words']), text: z.string().max(200) }).optional(),
  did: z.boolean(),
});
type MailAtom = z.infer<typeof schema>;

/** The host of an address (RFC 3986, 3.2.2), without a port, in small letters. The SQL reads it by the same pattern. */
export const HOST_PATTERN = '^[A-Za-z][A-Za-z0-9+.-]*://([^/?#:]+)';
const hostOf = (address: string) => new RegExp(HOST_PATTERN).exec(address)?.[1]?.toLowerCase() ?? '';

function leads(link: NonNullable<MailAtom['link']>, click: { address: string; words: string }): boolean {
  const wanted = link.text.toLowerCase();
  if (link.by === 'words') return click.words.toLowerCase().includes(wanted);
  const host = hostOf(click.address);
  return host === wanted || host.endsWith(`.${wanted}`);
}

/** When an email became one that counts, epoch ms, or null. */
function momentOf({ what, link }: MailAtom, mail: MailFact): number | null {
  if (what === 'got') return mail.sentAt;
  if (what === 'opened') return mail.openedAt ?? mail.clickedAt;
  if (!link) return mail.clickedAt;
  const clicks = (mail.clicks ?? []).filter((c) => leads(link, c)).map((c) => c.at);
  return clicks.length > 0 ? Math.min(...clicks) : null;
}

/** Moments of the emails that count, epoch ms, in order. */
function moments(atom: MailAtom, asking: Asking): number[] {
  const from = sinceInstant(atom.since, asking);
  return (asking.facts.mail ?? [])
    .flatMap((m) => momentOf(atom, m) ?? [])
    .filter((at) => at >= from && at <= asking.now)
    .sort((a, b) => a - b);
}

export const mailAtom: AtomKind<'mail', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, asking) => moments(atom, asking).length >= atom.times === atom.did,
  since: (atom, asking) => (atom.did ? (moments(atom, asking)[atom.times - 1] ?? null) : null),
  words: ({ what, times, since, link, did }, names) => {
    const verb = {
      got: ['got', 'did not get'],
      opened: ['opened', 'did not open'],
      clicked: ['clicked in', 'did not click in'],
    }[what];
    const many = times === 1 ? 'an email' : `${times} emails`;
    const where = link
      ? ` a link ${link.by === 'host' ? `to ${link.text || '…'}` : `that says “${link.text}”`} in`
      : '';
    const begin = link ? `${did ? 'clicked' : 'did not click'}${where}` : verb[did ? 0 : 1];
    return `${begin} ${many}${times === 1 ? '' : ' or more'} of any sequence ${describeSince(since, names)}`;
  },
  isOpen: ({ since, link }, { steps }) => (since.kind === 'step' && !steps.has(since.step)) || link?.text === '',
  asks: ({ link, since }) => ({
    mail: true,
    mailLinks: link !== undefined,
    steps: since.kind === 'step' ? [since.step] : [],
  }),
  ofVisit: ({ since }) => since.kind === 'entry' || since.kind === 'step',
  // Nobody is woken by an email that they get: whoever waits for that is looked at every hour.
  turns: (atom, asking) => [
    ...(atom.what === 'got' ? [asking.now + HOUR] : []),
    ...(atom.since.kind === 'period'
      ? (asking.facts.mail ?? []).flatMap((m) => {
          const at = momentOf(atom, m);
          return at === null || atom.since.kind !== 'period' ? [] : turnsOfPeriod(at + 1, atom.since, asking);
        })
      : []),
  ],
  about: 'links',
  sample: (world, pick) => {
    const link = pick([true, false]) ? { by: pick(['host', 'words'] as const), text: pick(world.links) } : undefined;
    const what = link ? 'clicked' : pick(['got', 'opened', 'clicked'] as const);
    return {
      kind: 'mail',
      what,
      times: pick([1, 1, 2, 3]),
      since: sampleSince(world, pick),
      ...(link ? { link } : {}),
      did: pick([true, false]),
    };
  },
};
