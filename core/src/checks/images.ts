import { at, type Check } from './check.ts';
import { liveEmails } from './texts.ts';

export const missingAlt: Check = {
  id: 'missing-alt',
  run: (sequence) =>
    liveEmails(sequence).flatMap((step) =>
      step.email.blocks.flatMap((b) =>
        b.kind === 'image' && b.alt.trim() === ''
          ? [
              {
                check: 'missing-alt',
                level: 'warning' as const,
                place: at(step.id, b.id, 'alt text'),
                message: `A picture in “${step.name}” has no alt text.`,
                fix: 'Say what it shows: many readers see the words first.',
              },
            ]
          : [],
      ),
    ),
};
