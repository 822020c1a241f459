import { at, type Check } from './check.ts';
import { liveEmails } from './texts.ts';

export const noSubject: Check = {
  id: 'no-subject',
  run: (sequence) =>
    liveEmails(sequence)
      .filter((s) => s.email.subject.trim() === '')
      .map((s) => ({
        check: 'no-subject', level: 'error', place: at(s.id, null, 'subject'),
        message: `“${s.name}” has no subject.`, fix: 'Write one: it is what people see first.',
      })), // prettier-ignore
};
