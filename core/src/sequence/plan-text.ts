import { describe, type Names } from '../audience/index.ts';
import { armLabel, capWords, entryWords, stepWords, triggersWords, windowWords } from './describe.ts';
import type { Sequence, Step } from './schema.ts';
import { dayWords, reaches } from './timing.ts';
import { armsOf } from './tree.ts';

const INDENT = '  ';

/** A sequence as text that anybody can read: how it starts, who may enter, and its steps in time, arms indented. */
export function planText(sequence: Sequence, names: Names): string {
  const reach = reaches(sequence);
  const when = (step: Step) => {
    const at = reach.get(step.id);
    return at ? dayWords(at) : 'never reached';
  };
  const lines: string[] = [
    sequence.name,
    ...(sequence.about ? [sequence.about] : []),
    `Starts: ${triggersWords(sequence.triggers, names)}`,
    `Who may enter: ${sequence.filter ? `whoever ${describe(sequence.filter, names)}` : 'everyone'}, ${entryWords(sequence.entry)}`,
    `Mails: ${sequence.list === null ? 'service mail' : sequence.list === '' ? 'nobody yet: it is not chosen' : `people on “${names.list(sequence.list)}”, ${capWords(sequence.cap)}`}`,
    `Goal: ${sequence.goal ? `whoever ${describe(sequence.goal, names)} leaves at once` : 'none'}`,
    ...(sequence.exit ? [`Leaves early: whoever ${describe(sequence.exit, names)}`] : []),
    '',
  ];
  const list = (steps: readonly Step[], indent: string) => {
    if (steps.length === 0) lines.push(`${indent}(goes on)`);
    for (const step of steps) {
      const off = step.on ? '' : ' (switched off)';
      if (step.kind === 'email') {
        const whom = step.forWhom ? `, to whoever ${describe(step.forWhom, names)}` : '';
        lines.push(
          `${indent}${when(step)}: email “${stepWords(step, names)}”, ${windowWords(step.window)}${whom}${off}`,
        );
        lines.push(`${indent}${INDENT}Subject: ${step.email.subject || 'none yet'}`);
        if (step.email.offer) lines.push(`${indent}${INDENT}Offer: ${names.offer(step.email.offer)}`);
        if (step.thenTag) lines.push(`${indent}${INDENT}Then adds the tag “${step.thenTag}”`);
        if (step.thenPoints) lines.push(`${indent}${INDENT}Then adds ${step.thenPoints} points`);
      } else lines.push(`${indent}${stepWords(step, names)}${off}`);
      if (step.note) lines.push(`${indent}${INDENT}Note: ${step.note}`);
      for (const arm of armsOf(step)) {
        lines.push(`${indent}${INDENT}${armLabel(step, arm.id, names)}:`);
        list(arm.steps, indent + INDENT + INDENT);
      }
    }
  };
  list(sequence.steps, '');
  return `${lines.join('\n')}\n`;
}
