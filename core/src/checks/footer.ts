import { blockKinds, modeOf, sourceAsText } from '../email/index.ts';
import { emailCheck } from './check.ts';

const plainWords = (text: string) => (text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? []).join(' ');

/** Whether a source says the postal address of the house: its street at least (the part with a number), however the lines are broken. */
function saysWhere(source: string, address: string): boolean {
  const parts = address.split(/[,\n]/).map(plainWords).filter(Boolean);
  const street = parts.find((part) => /\d/.test(part)) ?? parts[0] ?? '';
  return street !== '' && plainWords(sourceAsText(source, () => '')).includes(street);
}

export const noUnsubscribe = emailCheck('no-unsubscribe', 'error', ({ id, email, name }, { style }, { list }) => {
  // Service mail cannot be stopped: its footer says who sends it, and no more.
  const service = list === null;
  if (modeOf(email) === 'html') {
    if (service) return [];
    const source = email.html ?? '';
    const missing = !/\{\{\s*links\.unsubscribe\s*\}\}/.test(source);
    return [
      ...(missing
        ? [
            {
              part: 'source',
              message: `The source of “${name}” has no unsubscribe link.`,
              fix: 'Give a link the address {{ links.unsubscribe }}.',
            },
          ]
        : []),
      ...(saysWhere(source, style.postalAddress)
        ? []
        : [
            {
              part: 'source',
              message: `The source of “${name}” has no postal address.`,
              fix: style.postalAddress.trim()
                ? `Write “${style.postalAddress.trim()}” into it.`
                : 'Fill it in under Library, House style, and write it into the source.',
            },
          ]),
    ];
  }
  const footer = email.blocks.find((b) => b.kind === 'footer' && !b.off);
  if (!footer)
    return [
      {
        part: 'footer',
        message: service
          ? `“${name}” has no footer, so nothing says who sends it.`
          : `“${name}” has no footer, so no unsubscribe link.`,
        fix: 'Add the footer block.',
        repair: {
          label: 'Add the footer',
          commands: [
            {
              type: 'block.insert',
              step: id,
              index: email.blocks.length,
              block: blockKinds.footer.blank(() => `${id}-footer`),
            },
          ],
        },
      },
    ];
  const base = { block: footer.id, part: 'footer' };
  if (footer.when || footer.only)
    return [
      {
        ...base,
        message: `The footer of “${name}” is hidden from some readers${service ? '' : ', and with it the unsubscribe link'}.`,
        fix: 'Show the footer to everyone.',
        repair: {
          label: 'Show it to everyone',
          commands: (['when', 'only'] as const).map((field) => ({
            type: 'block.set' as const,
            step: id,
            block: footer.id,
            field,
            value: null,
          })),
        },
      },
    ];
  if (style.postalAddress.trim() === '')
    return [{ ...base, message: 'The postal address is empty.', fix: 'Fill it in under Library, House style.' }];
  // Written by hand, the plain-text part is all that some readers see.
  if (!service && email.text && !/\{\{\s*links\.unsubscribe\s*\}\}/.test(email.text.words))
    return [
      {
        part: 'plain text',
        message: `The plain text of “${name}” has no unsubscribe link.`,
        fix: 'Write {{ links.unsubscribe }} into it, or go back to the automatic text.',
        repair: {
          label: 'Back to the automatic text',
          commands: [{ type: 'email.set', step: id, field: 'text', value: null }],
        },
      },
    ];
  return [];
});
