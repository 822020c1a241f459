import { readTemplate } from '../email/index.ts';
import type { Check } from './check.ts';
import { liveEmails, templatesOf } from './texts.ts';

// Reserved for documentation by RFC 2606, 3: never an address that somebody meant. Names under .example are the demo's.
const PLACEHOLDER =
  /^(#.*|https?:\/\/(www\.)?(example\.(com|org|net)|localhost|127\.0\.0\.1|your-?site\.\w+|test\.com)([/:?#].*)?)$/i;
const ADDRESS = /^(https?:\/\/[^\s/.]+(\.[^\s/.]+)+(:\d+)?([/?#]\S*)?|mailto:\S+@\S+|tel:[+\d][\d\s()-]*)$/i;

function fault(address: string, files: readonly string[]): string | null {
  const text = address.trim();
  if (text === '') return 'A link goes nowhere: it has no address.';
  if (text.startsWith('file:'))
    return files.includes(text.slice(5)) ? null : 'A link points to a file that is no longer there.';
  const { pieces } = readTemplate(text);
  if (typeof pieces[0] !== 'string') return null;
  const filled = pieces.map((p) => (typeof p === 'string' ? p : 'x')).join('');
  if (PLACEHOLDER.test(filled)) return `“${text}” is a placeholder, not an address.`;
  return ADDRESS.test(filled) ? null : `“${text}” is no address: write it in full, with https://.`;
}

export const deadLink: Check = {
  id: 'dead-link',
  run: (sequence, { files }) =>
    liveEmails(sequence).flatMap((step) =>
      templatesOf(step).flatMap(({ source, place, address }) => {
        const message = address ? fault(source, files) : null;
        return message
          ? [
              {
                check: 'dead-link',
                level: 'error' as const,
                place,
                message,
                fix: 'Give it the page or the file it should open.',
              },
            ]
          : [];
      }),
    ),
};
