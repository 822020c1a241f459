import { describe, describeTest, type Names } from '../audience/index.ts';
import { daysWords, minuteWords, periodWords, type SendWindow } from '../time/index.ts';
import type { Arm, BranchStep, Step, Trigger } from './schema.ts';

export function triggerWords(trigger: Trigger, names: Names): string {
  if (trigger.kind === 'list')
    return trigger.list ? `When someone confirms “${names.list(trigger.list)}”` : 'Choose what starts it';
  const where = trigger.where.length ? ` with ${trigger.where.map(describeTest).join(' and ')}` : '';
  return trigger.event ? `When “${names.event(trigger.event)}” happens${where}` : 'Choose what starts it';
}

/** "Mon to Fri, 8:00 to 18:00", "any day, any hour". */
export function windowWords(window: SendWindow | null): string {
  if (!window) return 'any day, any hour';
  const hours =
    window.from === 0 && window.to === 1440 ? 'any hour' : `${minuteWords(window.from)} to ${minuteWords(window.to)}`;
  return `${daysWords(window.days)}, ${hours}`;
}

/** Words of an arm: its condition, or "Otherwise". */
export function armWords(arm: Arm, names: Names): string {
  return arm.condition ? describe(arm.condition, names) : 'Otherwise';
}

/** A branch's question: its name, or the sentence of its first condition. */
export function branchWords(step: BranchStep, names: Names): string {
  const first = step.arms[0];
  return step.name || (first ? armWords(first, names) : 'Branch');
}

/** The short name of any step: what it is called wherever it is spoken of. */
export function stepWords(step: Step, names: Names): string {
  switch (step.kind) {
    case 'email':
      return step.name || step.email.subject || 'Email';
    case 'wait':
      return `${periodWords(step.amount, step.unit)} later`;
    case 'branch':
      return branchWords(step, names);
    case 'action':
      return `${step.action.type === 'add-tag' ? 'Add' : 'Remove'} the tag “${step.action.tag || '…'}”`;
    case 'leave':
      return 'Leaves the sequence';
  }
}
