import {
  blockKinds,
  paragraphs,
  type Block,
  type Condition,
  type EmailStep,
  type Field,
  type Step,
  type WaitAt,
  type When,
  timerFaces,
  type TimerFaceName,
} from '@ascenso/core';

// The parts that the scenario's sequences are made of.

let count = 0;
export const id = () => `demo-${++count}`;
export const common = () => ({ id: id(), on: true, note: '' });
export const first: Field = { path: 'subscriber.first_name', fallback: 'reader', filters: [] };

export type Line = string | (string | Field)[];
export const text = (...lines: Line[]): Block => ({ id: id(), kind: 'text', doc: paragraphs(...lines) });
export const heading = (words: string): Block => ({ id: id(), kind: 'heading', text: words, level: 1 });
export const button = (label: string, address: string): Block => ({ id: id(), kind: 'button', label, address });
export const image = (file: string, alt: string): Block => ({
  id: id(),
  kind: 'image',
  file,
  alt,
  link: '',
  width: 536,
});
export const divider = (): Block => ({ id: id(), kind: 'divider' });
export const footer = (reason: string): Block => ({ id: id(), kind: 'footer', reason });

/** The masthead is one shared block for all emails. Its id is known once it has been made. */
let masthead = '';
export function useMasthead(shared: string): void {
  masthead = shared;
}
const head = (): Block => ({ kind: 'shared', id: id(), shared: masthead });

export const signature = (greeting: string): Block => ({
  ...blockKinds.signature.blank(id),
  greeting,
  shows: { photo: true, role: true, phone: false, page: false },
});
export const tagged = (tag: string): Condition => ({ kind: 'tag', tag, has: true });
/** The same block for some readers only. */
export const when = (block: Block, shown: When): Block => ({ ...block, when: shown });

/** An email that makes an offer. */
export const making = (offer: string, step: EmailStep): EmailStep => ({ ...step, email: { ...step.email, offer } });
export const code = (): Block => blockKinds.code.blank(id);
/** A timer in one of the faces: to the deadline of the offer, or to a date by its field. */
export const timer = (face: TimerFaceName, field?: string): Block => ({
  ...blockKinds.timer.blank(id),
  face: timerFaces[face],
  ...(field
    ? {
        to: { kind: 'field' as const, path: field },
        says: 'It begins on',
        after: { kind: 'message' as const, text: 'The evening has begun.' },
      }
    : {}),
});

/** The lines of the cart, as they stand in the event that started it. */
export const cartLines = (): Block => ({
  ...blockKinds.repeat.blank(id),
  list: 'event.lines',
  link: 'page',
  limit: 4,
  sort: { field: 'price', down: true },
  picture: { on: true, field: 'image' },
  title: { on: true, field: 'title' },
  quantity: { on: true, field: 'quantity' },
  price: { on: true, field: 'price' },
});

export const letters = 'You asked for our workshop letters at foldwell.example.';

export function email(
  name: string,
  subject: string,
  preview: string,
  blocks: Block[],
  extra: Partial<EmailStep> = {},
  sender = '',
): EmailStep {
  return {
    ...common(),
    kind: 'email',
    name,
    window: null,
    forWhom: null,
    thenTag: '',
    thenPoints: 0,
    email: { sender, subject, preview, blocks: [head(), ...blocks] },
    ...extra,
  };
}
export const wait = (amount: number, unit: 'hours' | 'days' | 'weeks'): Step => ({
  ...common(),
  kind: 'wait',
  amount,
  unit,
  at: null,
});
export const waitAt = (at: WaitAt): Step => ({ ...common(), kind: 'wait', amount: 1, unit: 'days', at });
export const weekdays = { days: [1, 2, 3, 4, 5], from: 8 * 60, to: 18 * 60 };

/** Did an event since they entered. */
export const did = (event: string): Condition => ({
  kind: 'event',
  event,
  done: true,
  since: { kind: 'entry' },
  where: [],
});
