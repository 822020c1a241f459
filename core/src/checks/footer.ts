import { at, type Check } from './check.ts';
import { liveEmails } from './texts.ts';

export const noUnsubscribe: Check = {
  id: 'no-unsubscribe',
  run: (sequence, { style }) =>
    liveEmails(sequence).flatMap((step) => {
      const footer = step.email.blocks.find((b) => b.kind === 'footer');
      const base = {
        check: 'no-unsubscribe',
        level: 'error' as const,
        place: at(step.id, footer?.id ?? null, 'footer'),
      };
      if (!footer)
        return [
          { ...base, message: `“${step.name}” has no footer, so no unsubscribe link.`, fix: 'Add the footer block.' },
        ];
      if (style.postalAddress.trim() === '')
        return [{ ...base, message: 'The postal address is empty.', fix: 'Fill it in under Library, House style.' }];
      return [];
    }),
};
