import { walk, type Sequence } from '../sequence/index.ts';
import { at, liveEmails, type Check, type CheckContext, type Finding } from './check.ts';

/** Whether people come onto the list by the sequence itself, or with what starts it: then nobody has to be on it yet. */
const bringsPeople = (sequence: Sequence, list: string): boolean =>
  sequence.triggers.some((t) => t.kind === 'list' && t.list === list && t.what === 'joined') ||
  walk(sequence).some(
    ({ step }) => step.on && step.kind === 'action' && step.action.type === 'join-list' && step.action.list === list,
  );

function fault(
  sequence: Sequence,
  { lists, confirmed }: CheckContext,
): Pick<Finding, 'message' | 'fix' | 'level'> | null {
  const { list } = sequence;
  // Service mail asks for no list.
  if (list === null || liveEmails(sequence).length === 0) return null;
  if (list === '')
    return {
      level: 'error',
      message: 'It is not said whom it mails.',
      fix: 'Choose the list that its readers have confirmed, or service mail, where it starts.',
    };
  if (!lists.includes(list))
    return {
      level: 'error',
      message: 'The list that it mails is no longer there.',
      fix: 'Choose another, where it starts.',
    };
  if (confirmed?.[list] === 0 && !bringsPeople(sequence, list))
    return {
      // Before anybody is on any list, it is not the wrong one.
      level: Object.values(confirmed).some((n) => n > 0) ? 'error' : 'warning',
      message: 'Nobody has confirmed the list that it mails: no email would go out to anybody.',
      fix: 'Choose the list that its readers are on, where it starts.',
    };
  return null;
}

/** Whom a sequence mails is chosen, and there is somebody. */
export const whomItMails: Check = {
  id: 'whom-it-mails',
  run: (sequence, context) => {
    const found = fault(sequence, context);
    return found ? [{ check: 'whom-it-mails', place: at(null, null, 'list'), ...found }] : [];
  },
};
