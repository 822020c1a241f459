import { atomsOf, kindOfAtom, plainNames, type Condition } from '../audience/index.ts';
import { conditionsOfBlock, walkBlocks } from '../email/index.ts';
import {
  momentRange,
  stepWords,
  walk,
  type Action,
  type Sequence,
  type Step,
  type Trigger,
} from '../sequence/index.ts';
import { at, type Check, type CheckContext, type Finding } from './check.ts';

/** Whether a trigger says completely what it waits for, and all that it names is there. */
function isWhole(t: Trigger, { lists, segments, fields, sequences }: CheckContext): boolean {
  switch (t.kind) {
    case 'list':
      return lists.includes(t.list);
    case 'tag':
      return t.tag.trim() !== '';
    case 'attribute':
      return fields.subscriber.includes(t.test.field);
    case 'event':
      return t.event !== '';
    case 'date':
      return fields.subscriber.includes(t.attribute);
    case 'segment':
      return segments.includes(t.segment);
    case 'quiet':
      return t.what !== 'event' || t.event !== '';
    case 'unfollowed':
      return t.event !== '' && t.without !== '';
    case 'moment':
      return t.when === 'published' || momentRange(t) !== null;
    case 'reading':
      return !t.email || (t.email.step !== '' && sequences.some((s) => s.id === t.email?.sequence));
    case 'hand':
      return true;
  }
}

// A list or an attribute that is not there would stop the engine, or be set on nobody's page.
function missing(action: Action, { lists, fields, sequences }: CheckContext): string | null {
  switch (action.type) {
    case 'add-tag':
    case 'remove-tag':
      return action.tag.trim() ? null : 'Name the tag.';
    case 'join-list':
    case 'leave-list':
      return lists.includes(action.list) ? null : 'Choose a list.';
    case 'set-attribute':
      return fields.subscriber.includes(action.key) ? null : 'Choose an attribute.';
    case 'add-points':
      return action.points === 0 ? 'Say how many points.' : null;
    case 'start-sequence':
    case 'stop-sequence':
      return sequences.some((s) => s.id === action.sequence) ? null : 'Choose a sequence.';
    case 'tell-team':
      if (!/^[^\s@]+@[^\s@.]+(?:\.[^\s@.]+)+$/.test(action.to)) return 'Write the address of whom it tells.';
      return action.text.trim() ? null : 'Write what they are told.';
    case 'call-webhook':
      return /^https?:\/\/[^\s/]+/.test(action.url) ? null : 'Write an address that begins with https://.';
  }
}

function isOpenQuestion(
  condition: Condition | null,
  { segments, offers, sequences }: CheckContext,
  steps: ReadonlySet<string>,
): boolean {
  if (!condition) return false;
  const known = {
    steps,
    segments: new Set(segments),
    offers: new Set(offers.map((o) => o.id)),
    sequences: new Set(sequences.map((s) => s.id)),
  };
  return atomsOf(condition).some((a) => kindOfAtom(a).isOpen(a, known));
}

const askedBy = (step: Step): (Condition | null)[] => {
  if (step.kind === 'branch') return step.arms.map((a) => a.condition);
  if (step.kind === 'until') return [step.condition];
  return step.kind === 'email' ? [step.forWhom ?? null] : [];
};

function aboutStep(step: Step, context: CheckContext, steps: ReadonlySet<string>): Finding[] {
  const finding = (message: string, fix: string): Finding => ({
    check: 'unfinished',
    level: 'error',
    place: at(step.id),
    message,
    fix,
  });
  const out: Finding[] = [];
  const fix = step.kind === 'action' ? missing(step.action, context) : null;
  if (fix) out.push(finding('This action does not say completely what it does, or names what is not there.', fix));
  if (step.kind === 'wait' && step.at?.kind === 'date' && !step.at.field)
    out.push(
      finding('This wait does not say yet which date it waits for.', 'Choose a date of the person or of the event.'),
    );
  if (askedBy(step).some((c) => isOpenQuestion(c, context, steps)))
    out.push(finding(`“${stepWords(step, plainNames)}” does not say yet what it asks.`, 'Choose what they did.'));
  if (step.kind === 'email')
    for (const { block } of walkBlocks(step.email.blocks))
      if (!block.off && conditionsOfBlock(block).some((c) => isOpenQuestion(c, context, steps)))
        out.push({
          ...finding('Who sees this block is not said completely, or asks for what is not there.', 'Say who sees it.'),
          place: at(step.id, block.id, 'who sees it'),
        });
  return out;
}

function aboutSequence(sequence: Sequence, context: CheckContext, steps: ReadonlySet<string>): Finding[] {
  const finding = (part: string | null, message: string, fix: string): Finding => ({
    check: 'unfinished',
    level: 'error',
    place: at(null, null, part),
    message,
    fix,
  });
  const out: Finding[] = [];
  if (!sequence.triggers.every((t) => isWhole(t, context)))
    out.push(
      sequence.triggers.length === 1
        ? sequence.triggers[0]?.kind === 'moment'
          ? finding(
              'trigger',
              'It is not said when it goes out.',
              'Choose the day, or let it go out when it is published.',
            )
          : finding('trigger', 'Nothing starts this sequence.', 'Choose what starts it at the top of the plan.')
        : finding(
            'trigger',
            'One of the triggers is not finished.',
            'Finish it or take it out, at the top of the plan.',
          ),
    );
  if (
    isOpenQuestion(sequence.filter, context, steps) ||
    isOpenQuestion(sequence.goal, context, steps) ||
    isOpenQuestion(sequence.exit ?? null, context, steps)
  )
    out.push(
      finding(
        'trigger',
        'Who may enter, or the goal, does not say yet what it asks.',
        'Finish it at the top of the plan.',
      ),
    );
  // Whom a moment takes in is looked for among all people, before anybody is inside.
  if (
    sequence.filter &&
    sequence.triggers.some((t) => t.kind === 'moment') &&
    atomsOf(sequence.filter).some((a) => kindOfAtom(a).ofVisit(a))
  )
    out.push(
      finding(
        'trigger',
        'Who gets it asks about something since entry or since an email of this sequence: nobody is inside yet.',
        'Ask about a time before now, such as the last 30 days.',
      ),
    );
  if (!walk(sequence).some(({ step }) => step.kind === 'email' && step.on))
    out.push(finding(null, 'No email would go out.', 'Add an email to the plan.'));
  return out;
}

/** What a sequence and its steps need to be a question or a deed at all. */
export const unfinished: Check = {
  id: 'unfinished',
  run: (sequence, context) => {
    const all = walk(sequence).map((v) => v.step);
    const steps = new Set(all.map((s) => s.id));
    return [
      ...aboutSequence(sequence, context, steps),
      ...all.flatMap((step) => (step.on ? aboutStep(step, context, steps) : [])),
    ];
  },
};

/** Ids of the sequences that a sequence starts. */
export const startsOf = (sequence: Pick<Sequence, 'steps'>): string[] =>
  walk(sequence).flatMap(({ step }) =>
    step.on && step.kind === 'action' && step.action.type === 'start-sequence' ? [step.action.sequence] : [],
  );

/** Sequences that start each other in a circle would go on for ever, but for the engine's limit. */
export const startsInACircle: Check = {
  id: 'starts-in-a-circle',
  run: (sequence, { self, sequences }) => {
    const leadsHere = (id: string, seen: readonly string[]): boolean =>
      id === self ||
      (!seen.includes(id) &&
        (sequences.find((s) => s.id === id)?.starts ?? []).some((next) => leadsHere(next, [...seen, id])));
    return walk(sequence).flatMap(({ step }): Finding[] => {
      if (!step.on || step.kind !== 'action' || step.action.type !== 'start-sequence') return [];
      const { sequence: started } = step.action;
      if (!self || !leadsHere(started, [])) return [];
      return [
        {
          check: 'starts-in-a-circle',
          level: 'error',
          place: at(step.id),
          message:
            started === self
              ? 'This sequence starts itself.'
              : `“${sequences.find((s) => s.id === started)?.name}” starts this sequence in its turn: people would go round in a circle.`,
          fix: 'Start another one, or take this step out.',
        },
      ];
    });
  },
};
