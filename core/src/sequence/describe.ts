import { describe, describeTest, type Names, withWords } from '../audience/index.ts';
import {
  dayOfCalendarWords,
  daysWords,
  minuteWords,
  MONTHS,
  periodWords,
  placeWords,
  type SendWindow,
} from '../time/index.ts';
import type {
  Action,
  Arm,
  BranchStep,
  CapRules,
  EmailStep,
  EntryRules,
  SplitRule,
  Step,
  TestMeasure,
  WaitAt,
} from './schema.ts';
import type { Trigger, TriggerOf } from './triggers.ts';
import { armsOf } from './tree.ts';
import { waitWords } from './waiting.ts';

const UNCHOSEN = 'Choose what starts it';

function readingWords({ what, email }: TriggerOf<'reading'>, names: Names): string {
  const does = what === 'opened' ? 'opens' : 'clicks in';
  if (!email) return `When someone ${does} an email`;
  if (!email.step) return UNCHOSEN;
  const which = `“${names.email(email.sequence, email.step)}” of “${names.sequence(email.sequence)}”`;
  return `When someone ${email.link === undefined ? does : `clicks ${linkWords(email.link, names)} in`} ${which}`;
}

/** A link by its address; one that leads to a file of ours by the name of the file. */
const linkWords = (address: string, names: Names): string =>
  address.startsWith('file:') ? `“${names.file(address.slice(5))}”` : address;

/** "When someone joins “Letters”", "21 days before “renews on”, 9:00". */
export function triggerWords(trigger: Trigger, names: Names): string {
  switch (trigger.kind) {
    case 'list':
      if (!trigger.list) return UNCHOSEN;
      return `When someone ${trigger.what === 'joined' ? 'confirms' : 'leaves'} “${names.list(trigger.list)}”`;
    case 'tag':
      return trigger.tag ? `When the tag “${trigger.tag}” is ${trigger.what}` : UNCHOSEN;
    case 'attribute':
      return trigger.test.field ? `When ${describeTest(trigger.test).replace(' is ', ' becomes ')}` : UNCHOSEN;
    case 'event': {
      const where = withWords(trigger.where, names);
      return trigger.event ? `When “${names.event(trigger.event)}” happens${where}` : UNCHOSEN;
    }
    case 'date': {
      if (!trigger.attribute) return UNCHOSEN;
      const on = trigger.days === 0 ? 'On ' : '';
      const at = { kind: 'date' as const, field: `subscriber.${trigger.attribute}`, passed: 'leave' as const };
      return `${on}${waitAtWords({ ...at, days: trigger.days, minute: trigger.minute })}${trigger.yearly ? ', every year' : ''}`;
    }
    case 'segment':
      return trigger.segment ? `When someone enters the segment “${names.segment(trigger.segment)}”` : UNCHOSEN;
    case 'reading':
      return readingWords(trigger, names);
    case 'quiet': {
      if (trigger.what === 'event' && !trigger.event) return UNCHOSEN;
      const did =
        trigger.what === 'event'
          ? `“${names.event(trigger.event)}”`
          : trigger.what === 'opened'
            ? 'opening an email'
            : 'a click';
      return `After ${periodWords(trigger.days, 'days')} without ${did}`;
    }
    case 'unfollowed': {
      if (!trigger.event || !trigger.without) return UNCHOSEN;
      const where = withWords(trigger.where, names);
      const { amount, unit } = trigger.within;
      return `When “${names.event(trigger.event)}” happens${where} and no “${names.event(trigger.without)}” follows within ${periodWords(amount, unit)}`;
    }
    case 'moment': {
      if (trigger.when === 'published') return 'Once, when it is published';
      const day = dayOfCalendarWords(trigger.day);
      const where = trigger.zone === null ? 'in each reader’s own zone' : `in ${placeWords(trigger.zone)}`;
      return day ? `Once, on ${day} at ${minuteWords(trigger.minute)} ${where}` : 'Choose the day on which it goes out';
    }
    case 'hand':
      return 'By hand';
  }
}

/** All that can start a sequence, as one line. */
export const triggersWords = (triggers: readonly Trigger[], names: Names): string =>
  triggers
    .map((t, i) => (i === 0 ? triggerWords(t, names) : triggerWords(t, names).replace(/^./, (c) => c.toLowerCase())))
    .join(', or ');

/** "Once ever", "again after 30 days, one for each “cart_id”, 10% held out". */
export function entryWords({ again, days, key, holdout }: EntryRules): string {
  const often = {
    once: 'once ever',
    'after-leaving': 'again after leaving',
    'after-days': `again after ${periodWords(days, 'days')}`,
  }[again];
  return [often, ...(key ? [`one for each “${key}”`] : []), ...(holdout > 0 ? [`${holdout}% held out`] : [])].join(
    ', ',
  );
}

/** "Priority 3, gives way to a later day", "priority 1, outside the daily cap". */
export const capWords = ({ exempt, priority, yields }: CapRules): string =>
  `priority ${priority}, ${exempt ? 'outside the daily cap' : yields === 'later' ? 'gives way to a later day' : 'is left out when it gives way'}`;

/** "Mon to Fri, 8:00 to 18:00", "any day, any hour". */
export function windowWords(window: SendWindow | null): string {
  if (!window) return 'any day, any hour';
  const hours =
    window.from === 0 && window.to === 1440 ? 'any hour' : `${minuteWords(window.from)} to ${minuteWords(window.to)}`;
  return `${daysWords(window.days)}, ${hours}${window.zone ? ` in ${placeWords(window.zone)}` : ''}`;
}

/** When an email goes out, to whom and with which offer: "Straight away, to everyone, with “Kit offer”". */
export function whomWords(step: EmailStep, names: Names): string {
  const when = step.window ? `Held for ${windowWords(step.window)}` : 'Straight away';
  const whom = step.forWhom ? `whoever ${describe(step.forWhom, names)}` : 'everyone';
  return `${when}, to ${whom}${step.email.offer ? `, with “${names.offer(step.email.offer)}”` : ''}`;
}

/** A moment of the calendar: "Thu, 19:00", "14 February, 9:00", "21 days before “renews on”, 9:00". */
export function waitAtWords(at: WaitAt): string {
  const time = at.minute === null ? '' : `, ${minuteWords(at.minute)}`;
  switch (at.kind) {
    case 'weekday':
      return `${daysWords(at.days)}${time}`;
    case 'day-of-year':
      return `${at.day} ${MONTHS[at.month - 1]}${time}`;
    case 'date': {
      const name = `“${at.field.split('.').slice(1).join('.').replaceAll('_', ' ') || '…'}”`;
      const far = at.days === 0 ? '' : `${periodWords(Math.abs(at.days), 'days')} ${at.days < 0 ? 'before' : 'after'} `;
      return `${far}${name}${time}`;
    }
  }
}

/** Words of an arm: its condition, or "Otherwise". */
export function armWords(arm: Arm, names: Names): string {
  return arm.condition ? describe(arm.condition, names) : 'Otherwise';
}

/** A branch's question: its name, or the sentence of its first condition. */
export function branchWords(step: BranchStep, names: Names): string {
  const first = step.arms[0];
  if (step.name) return step.name;
  return step.arms.length > 2
    ? `The first of ${step.arms.length - 1} that holds`
    : first
      ? armWords(first, names)
      : 'Branch';
}

/** Words of one arm, whatever kind of step it belongs to: its name, or what its answer calls it. */
export function armLabel(step: Step, id: string, names: Names): string {
  const { name } = armsOf(step).find((a) => a.id === id) ?? {};
  const answer = answerWords(step, id, names);
  if (!name) return answer;
  // Its share is no name: who takes it is a lot.
  return step.kind === 'split' ? `${name}, ${answer}` : name;
}

/** What an arm is for, whatever it is called. */
export function answerWords(step: Step, id: string, names: Names): string {
  if (step.kind === 'branch') {
    const arm = step.arms.find((a) => a.id === id);
    return arm ? armWords(arm, names) : '…';
  }
  if (step.kind === 'split') {
    const arm = step.arms.find((a) => a.id === id);
    const whole = step.arms.reduce((sum, a) => sum + a.weight, 0);
    return arm ? `${whole === 0 ? 0 : Math.round((arm.weight / whole) * 100)}%` : '…';
  }
  if (step.kind === 'until')
    return step.arms[0].id === id ? 'It happened' : `Not within ${periodWords(step.amount, step.unit)}`;
  return '…';
}

/** What a test is decided by, as it follows “by”. */
export const MEASURE_WORDS: Readonly<Record<TestMeasure, string>> = {
  money: 'money per person',
  goal: 'who reached the goal',
  clicked: 'who clicked in its email',
  opened: 'who opened its email',
};

/** "By hand", "by who clicked in its email, 4 hours after the first 10%, who alone take part before". */
export function ruleWords(rule: SplitRule | null): string {
  if (!rule) return 'by hand';
  const by = `by ${MEASURE_WORDS[rule.measure]}`;
  if (!rule.after) return `${by}, once it is settled`;
  const after = `${by}, ${periodWords(rule.after.amount, rule.after.unit)} after the first`;
  const few = rule.few === 'lot' ? ', each by lot where too few took part' : '';
  return rule.first === 100 ? `${after}${few}` : `${after}; ${rule.first}% take part before, the others wait${few}`;
}

/** What an action does: "Add the tag “kit-owner”". */
export function actionWords(action: Action, names: Names): string {
  switch (action.type) {
    case 'add-tag':
    case 'remove-tag':
      return `${action.type === 'add-tag' ? 'Add' : 'Remove'} the tag “${action.tag || '…'}”`;
    case 'join-list':
      return `Put on “${action.list ? names.list(action.list) : '…'}”`;
    case 'leave-list':
      return `Take off “${action.list ? names.list(action.list) : '…'}”`;
    case 'set-attribute': {
      const key = action.key.replaceAll('_', ' ') || '…';
      return action.value === null ? `Take the value for ${key} away` : `Set ${key} to “${action.value}”`;
    }
    case 'add-points':
      return `${action.points < 0 ? 'Take away' : 'Add'} ${periodWords(Math.abs(action.points), 'points')}`;
    case 'start-sequence':
    case 'stop-sequence':
      return `${action.type === 'start-sequence' ? 'Start' : 'Stop'} “${action.sequence ? names.sequence(action.sequence) : '…'}”`;
    case 'tell-team':
      return `Tell ${action.to || '…'}`;
    case 'call-webhook':
      return `Call ${action.url.replace(/^https?:\/\//, '') || '…'}`;
  }
}

/** The short name of any step: what it is called wherever it is spoken of. */
export function stepWords(step: Step, names: Names): string {
  switch (step.kind) {
    case 'email':
      return step.name || step.email.subject || 'Email';
    case 'wait':
      return step.at ? `Until ${waitAtWords(step.at)}` : `${waitWords(step)} later`;
    case 'branch':
      return branchWords(step, names);
    case 'split':
      return step.name || `Split ${step.arms.map((a) => armLabel(step, a.id, names)).join(' / ')}`;
    case 'until':
      return (
        step.name ||
        `Until whoever is here ${describe(step.condition, names)}, at most ${periodWords(step.amount, step.unit)}`
      );
    case 'action':
      return actionWords(step.action, names);
    case 'leave':
      return 'Leaves the sequence';
  }
}
