import { readTemplate } from '../email/index.ts';
import type { Check } from './check.ts';
import { fieldsOf, liveEmails, templatesOf } from './texts.ts';

export const unknownField: Check = {
  id: 'unknown-field',
  run: (sequence, { fields }) =>
    liveEmails(sequence).flatMap((step) => [
      ...templatesOf(step).flatMap(({ source, place }) =>
        readTemplate(source).faults.map((f) => ({
          check: 'unknown-field',
          level: 'error' as const,
          place,
          message: f.message,
          fix: 'Pick the field from the list instead.',
        })),
      ),
      ...fieldsOf(step).flatMap(({ field, place }) => {
        const [group = '', ...rest] = field.path.split('.');
        const known = Object.hasOwn(fields, group) ? fields[group as keyof typeof fields] : null;
        if (known?.includes(rest.join('.'))) return [];
        const message =
          group === 'event' && fields.event.length === 0
            ? `“${field.path}” comes from an event, but what starts this sequence brings none.`
            : `There is no field “${field.path}”.`;
        return [
          {
            check: 'unknown-field',
            level: 'error' as const,
            place,
            message,
            fix: 'Pick a field that exists, or take it out.',
          },
        ];
      }),
    ]),
};

export const missingFallback: Check = {
  id: 'missing-fallback',
  run: (sequence) =>
    liveEmails(sequence).flatMap((step) =>
      fieldsOf(step)
        .filter(({ field, address }) => field.fallback === null && !address && field.path.startsWith('subscriber.') && field.path !== 'subscriber.email')
        .map(({ field, place }) => ({
          check: 'missing-fallback', level: 'warning' as const, place,
          message: `“${field.path}” has no fallback: whoever has no value gets a hole in the sentence.`,
          fix: 'Click the chip and say what stands there instead.',
        })),
    ), // prettier-ignore
};
