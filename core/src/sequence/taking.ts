import { atomsOf } from '../audience/index.ts';
import { fieldsWithPlaces, walkBlocks } from '../email/index.ts';
import type { EmailStep, Sequence } from './schema.ts';
import { emailSteps } from './tree.ts';

const ofEvent = (path: string) => path === 'event' || path.startsWith('event.');

/** Whether an email says something of the event that began the passage, and has nothing to say without one. */
function speaksOfEvent({ email, forWhom }: EmailStep): boolean {
  // Whoever it is for has done something of that kind: that is asked of everybody, however they came in.
  if (forWhom && atomsOf(forWhom).some((a) => a.kind === 'event')) return false;
  return (
    fieldsWithPlaces(email).some(({ field }) => ofEvent(field.path) && field.fallback === null) ||
    walkBlocks(email.blocks).some(
      ({ block }) =>
        !block.off &&
        ((block.kind === 'repeat' && ofEvent(block.list)) ||
          (block.kind === 'timer' && block.to.kind === 'field' && ofEvent(block.to.path))),
    )
  );
}

/**
 * Emails of a sequence that have nothing to say to somebody whom no event has brought in: added by hand, by another sequence. An
 * email about a cart without a cart is a wrong email.
 */
export const emailsOfEvent = (sequence: Pick<Sequence, 'steps'>): EmailStep[] =>
  emailSteps(sequence).filter((step) => step.on && speaksOfEvent(step));
