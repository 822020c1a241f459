import { contentOf, modeOf, readTemplate, type Email } from '../email/index.ts';
import { emailCheck, type CheckContext, type EmailFinding } from './check.ts';

// Reserved for documentation by RFC 2606, 3: never an address that somebody meant. Names under .example are the demo's.
const PLACEHOLDER =
  /^(#.*|https?:\/\/(www\.)?(example\.(com|org|net)|localhost|127\.0\.0\.1|your-?site\.\w+|test\.com)([/:?#].*)?)$/i;
/** An address of one email to one person: opening, click, unsubscribing or timer, named by 42 signed bytes (server/src/mail/token.ts). */
const PERSONAL = /^https?:\/+[^/]+\/+[ocut]\/+(?:[\w-]{56}|[\w-]{58})([/.?#;]|$)/i;

/** An address with everything written out that a server reads the same: what is encoded needlessly, and backslashes. */
function written(address: string): string {
  let text = address.trim();
  // Encoded twice over is encoded still.
  for (let i = 0; i < 3 && /%[0-9a-f]{2}/i.test(text); i++)
    text = text.replace(/%([2-7][0-9a-f])/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)));
  return text
    .replaceAll('\\', '/')
    .replace(/\/(\.?\/)+/g, '/')
    .replace(/^(https?:)\/+/i, '$1//');
}

/**
 * Whether an address was copied out of an email to one person, however it is written: what anybody does with it counts as
 * theirs.
 */
export const isPersonal = (address: string): boolean => PERSONAL.test(written(address));
const ADDRESS = /^(https?:\/\/[^\s/.:?#]+(\.[^\s/.:?#]+)+(:\d+)?([/?#]\S*)?|mailto:[^\s@]+@\S+|tel:[+\d][\d\s()-]*)$/i;

/** What is wrong with an address, and the same written right where that can be guessed; null for a good one. */
export function addressFault(
  address: string,
  files: readonly { id: string }[],
  label = '',
): { message: string; better?: string } | null {
  const text = address.trim();
  if (text === '') return { message: `${label ? `The link “${label}”` : 'A link'} goes nowhere: it has no address.` };
  if (text.startsWith('file:'))
    return files.some((f) => f.id === text.slice(5))
      ? null
      : { message: 'A link points to a file that is no longer there.' };
  const { pieces } = readTemplate(text);
  if (typeof pieces[0] !== 'string') return null;
  const filled = pieces.map((p) => (typeof p === 'string' ? p : 'x')).join('');
  if (isPersonal(filled))
    return {
      message: `${label ? `The link “${label}”` : 'A link'} was copied from an email to one person: what anybody does with it would count as theirs.`,
    };
  if (PLACEHOLDER.test(filled)) return { message: `“${text}” is a placeholder, not an address.` };
  if (ADDRESS.test(filled)) return null;
  const message = `“${text}” is no address: write it in full, with https://.`;
  if (/^[^\s@:/]+@[^\s@/.]+(?:\.[^\s@/.]+)+$/.test(text)) return { message, better: `mailto:${text}` };
  return /^[^\s/.:]+(\.[^\s/.:]+)+(\/\S*)?$/.test(text) ? { message, better: `https://${text}` } : { message };
}

/** A page that the event brings, for a button that has none: the very cart, the booking. */
function broughtBy(
  block: string | null,
  place: string,
  step: string,
  { addresses = [] }: CheckContext,
): EmailFinding['repair'] {
  const [only, ...more] = addresses;
  if (!only || more.length > 0 || !block || (place !== 'address' && place !== 'link')) return undefined;
  const name = only.replace(/^event\./, '').replaceAll('_', ' ');
  return {
    label: `Lead to the event’s “${name}”`,
    commands: [{ type: 'block.set', step, block, field: place, value: `{{ ${only} }}` }],
  };
}

export const deadLink = emailCheck('dead-link', 'error', ({ id, email }, context) =>
  contentOf(email).links.flatMap(({ address, block, place, label }) => {
    const fault = addressFault(address, context.files, label);
    if (!fault) return [];
    const brought = broughtBy(block, place, id, context);
    return [
      {
        block,
        part: place,
        message: fault.message,
        fix: 'Give it the page or the file it should open.',
        ...(fault.better && block && (place === 'address' || place === 'link')
          ? {
              repair: {
                label: `Write ${fault.better}`,
                commands: [{ type: 'block.set' as const, step: id, block, field: place, value: fault.better }],
              },
            }
          : brought
            ? { repair: brought }
            : {}),
      },
    ];
  }),
);

/** An address without a name, as SpamAssassin's NORMAL_HTTP_TO_IP has it; those of one's own network are for trying out. */
const NUMBER = /^https?:\/\/(?!127\.|10\.|192\.168\.)\d{1,3}(?:\.\d{1,3}){3}(?:[:/?#]|$)/i;

export const numberLink = emailCheck('number-link', 'warning', ({ email }) =>
  contentOf(email)
    .links.filter((l) => NUMBER.test(l.address.trim()))
    .map(({ address, block, place }) => ({
      block,
      part: place,
      message: `“${address}” leads to a number instead of a name: filters take it for a trap, and readers too.`,
      fix: 'Write the name of your site.',
    })),
);

/** More links than this read as a list of offers (common practice, no published source). */
const MANY = 20;

export const tooManyLinks = emailCheck('too-many-links', 'warning', ({ email, name }) => {
  const { links } = contentOf(email);
  return links.length > MANY
    ? [
        {
          message: `“${name}” has ${links.length} links: readers choose none, and filters grow wary.`,
          fix: `Keep those that matter: ${MANY} at most.`,
        },
      ]
    : [];
});

/** More buttons than this lead everywhere (common practice, no published source). */
export const MANY_BUTTONS = 3;

/** The places that buttons of an email lead to, those of cards and films too. */
export const buttonTargets = (email: Email): ReadonlySet<string> =>
  new Set(contentOf(email).links.flatMap((l) => (l.place === 'address' ? [l.address] : [])));

/** Buttons that lead to different places compete with each other. */
export const buttons = emailCheck('buttons', 'warning', ({ email, name }) => {
  const { links } = contentOf(email);
  // A letter may ask for nothing but an answer.
  if (links.length === 0 && modeOf(email) === 'designed')
    return [
      {
        message: `“${name}” has no button and no link: there is nothing to do in it.`,
        fix: 'Add the one thing that the reader should do.',
      },
    ];
  const targets = buttonTargets(email);
  return targets.size > MANY_BUTTONS
    ? [
        {
          block: links.filter((l) => l.place === 'address')[1]?.block ?? null,
          message: `“${name}” has ${targets.size} buttons that lead to different places.`,
          fix: 'Keep one, and make the others links in the text.',
        },
      ]
    : [];
});
