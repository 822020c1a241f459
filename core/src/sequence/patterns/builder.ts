import type { Condition } from '../../audience/index.ts';
import { blockKinds, paragraphs, type Block, type Field } from '../../email/index.ts';
import type { SendWindow } from '../../time/index.ts';
import { blankSequence } from '../blank.ts';
import type { Action, EmailStep, Sequence, Step, WaitAt, WaitStep } from '../schema.ts';
import type { Trigger } from '../triggers.ts';

/** What a pattern finds in the workspace that it is made for. What is not there is left to be chosen. */
export interface Ground {
  newId: () => string;
  /** The list that it mails under, or null. */
  list: string | null;
  /** Names of the kinds of events that are declared. */
  events: readonly string[];
  /** Keys of the date attributes. */
  dates: readonly string[];
}

const name: Field = { path: 'subscriber.first_name', fallback: 'there', filters: [] };
const DAYTIME: SendWindow = { days: [1, 2, 3, 4, 5], from: 8 * 60, to: 18 * 60 };

interface Letter {
  name: string;
  subject: string;
  preview: string;
  /** Paragraphs; the greeting comes before them. */
  text: string[];
  button?: string;
  window?: boolean;
  forWhom?: Condition;
  /** A list that is gone through below the text: "event.lines". Which of its fields are shown is left to be chosen. */
  lines?: string;
  /** It shows a code and a timer; whose is left to be chosen. */
  offer?: true;
}

/** Puts the steps of a pattern together: each method answers one, with ids of its own. */
export class Builder {
  readonly ground: Ground;
  constructor(ground: Ground) {
    this.ground = ground;
  }

  #common() {
    return { id: this.ground.newId(), on: true, note: '' };
  }

  /** An event by name where it is declared, else one to be chosen. */
  event(wanted: string): string {
    return this.ground.events.includes(wanted) ? wanted : '';
  }

  date(wanted: string): string {
    return this.ground.dates.includes(wanted) ? wanted : '';
  }

  joins(): Trigger {
    return { kind: 'list', list: this.ground.list ?? '', what: 'joined' };
  }

  did(event: string, since: 'entry' | 'ever' = 'entry'): Condition {
    return { kind: 'event', event: this.event(event), done: true, since: { kind: since }, where: [] };
  }

  /** An email with a greeting, its paragraphs, a button and the footer. */
  email(l: Letter): EmailStep {
    const { newId } = this.ground;
    const blocks: Block[] = [
      { kind: 'text', id: newId(), doc: paragraphs(['Hello ', name, ','], ...l.text) },
      ...(l.offer ? [blockKinds.code.blank(newId), blockKinds.timer.blank(newId)] : []),
      ...(l.lines === undefined ? [] : [{ ...blockKinds.repeat.blank(newId), list: l.lines }]),
      ...(l.button ? [{ kind: 'button' as const, id: newId(), label: l.button, address: '#' }] : []),
      blockKinds.footer.blank(newId),
    ];
    return {
      ...this.#common(),
      kind: 'email',
      name: l.name,
      window: l.window ? DAYTIME : null,
      forWhom: l.forWhom ?? null,
      thenTag: '',
      thenPoints: 0,
      email: { sender: '', subject: l.subject, preview: l.preview, blocks },
    };
  }

  wait(amount: number, unit: WaitStep['unit']): Step {
    return { ...this.#common(), kind: 'wait', amount, unit, at: null };
  }

  waitAt(at: WaitAt): Step {
    return { ...this.#common(), kind: 'wait', amount: 1, unit: 'days', at };
  }

  action(action: Action): Step {
    return { ...this.#common(), kind: 'action', action };
  }

  leave(): Step {
    return { ...this.#common(), kind: 'leave' };
  }

  branch(title: string, condition: Condition, yes: Step[], otherwise: Step[]): Step {
    const { newId } = this.ground;
    const arms = [
      { id: newId(), condition, steps: yes },
      { id: newId(), condition: null, steps: otherwise },
    ];
    return { ...this.#common(), kind: 'branch', name: title, arms };
  }

  until(title: string, condition: Condition, days: number, happened: Step[], not: Step[]): Step {
    const { newId } = this.ground;
    const period = { amount: days, unit: 'days' as const };
    return {
      ...this.#common(),
      kind: 'until',
      name: title,
      condition,
      ...period,
      arms: [
        { id: newId(), steps: happened },
        { id: newId(), steps: not },
      ],
    };
  }

  /** Who clicked in, or opened, an email of this very sequence. */
  read(what: 'opened' | 'clicked', step: EmailStep, did: boolean): Condition {
    return { kind: 'email', step: step.id, what, did };
  }

  sequence(title: string, more: Partial<Sequence> & { steps: Step[] }): Sequence {
    return { ...blankSequence(title, this.ground.list), ...more };
  }
}

/** A sequence to begin with: complete, in words of its own, with what has to be made one's own. */
export interface Pattern {
  id: string;
  name: string;
  /** When it is of use, in a sentence. */
  what: string;
  /** What to make one's own before it goes live. */
  yours: string[];
  build: (b: Builder) => Sequence;
}
