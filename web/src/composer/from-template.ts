import { copyBlock, modeOf, type Command, type Email } from '@ascenso/core';
import { newId } from '../ui/names.ts';

/** What of an email a template can bring, each to be taken or left. */
export interface TemplatePart {
  field: 'content' | 'subject' | 'preview' | 'sender' | 'replyTo' | 'toName' | 'text';
  /** What it puts in the place of what. */
  words: string;
}

const shown = (text: string) => (text ? `“${text}”` : 'nothing');

/** What a template would change of an email: nothing is told that stays as it is. */
export function partsOf(email: Email, template: Email, senderName: (id: string) => string): TemplatePart[] {
  const n = email.blocks.length;
  const source = modeOf(email) === 'html' ? 'the source' : `${n} ${n === 1 ? 'block' : 'blocks'}`;
  const plain = (field: 'subject' | 'preview' | 'replyTo' | 'toName', what: string): TemplatePart[] =>
    template[field] && template[field] !== email[field]
      ? [{ field, words: `${what}: ${shown(email[field] ?? '')} becomes ${shown(template[field])}` }]
      : [];
  const text: TemplatePart[] =
    (email.text?.words ?? '') === (template.text?.words ?? '')
      ? []
      : [
          {
            field: 'text',
            words: template.text
              ? 'Plain text: the template’s own'
              : 'Plain text: what was written by hand goes, it is made from the email again',
          },
        ];
  return [
    { field: 'content', words: `Content: ${source} give way to the template’s` },
    ...plain('subject', 'Subject'),
    ...plain('preview', 'Preview text'),
    ...(template.sender && template.sender !== email.sender
      ? [
          {
            field: 'sender' as const,
            words: `Sender: ${senderName(email.sender)} becomes ${senderName(template.sender)}`,
          },
        ]
      : []),
    ...plain('replyTo', 'Answers go to'),
    ...plain('toName', 'Name in the To line'),
    ...text,
  ];
}

/** The commands that take these parts of a template, and nothing else, over into an email. */
export function takeParts(
  step: { id: string; email: Email },
  { template, email }: { template: string | null; email: Email },
  taken: ReadonlySet<TemplatePart['field']>,
): Command[] {
  const set = (field: Extract<Command, { type: 'email.set' }>['field'], value: unknown): Command => ({
    type: 'email.set',
    step: step.id,
    field,
    value,
  });
  const content: Command[] = [
    ...step.email.blocks.map((b): Command => ({ type: 'block.remove', step: step.id, block: b.id })),
    ...email.blocks.map((b, index): Command => ({
      type: 'block.insert',
      step: step.id,
      index,
      block: copyBlock(b, newId),
    })),
    set('mode', email.mode ?? null),
    set('html', email.html ?? null),
    // Words bring their language.
    set('language', email.language ?? null),
    set('template', template),
  ];
  const fields = (['subject', 'preview', 'sender', 'replyTo', 'toName', 'text'] as const).filter((f) => taken.has(f));
  return [...(taken.has('content') ? content : []), ...fields.map((f) => set(f, email[f] ?? null))];
}
