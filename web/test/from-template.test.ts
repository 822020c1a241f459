import { expect, test } from 'vitest';
import { applyCommands, blankEmail, blankSequence, emailSteps, paragraphs, type Email } from '@ascenso/core';
import { partsOf, takeParts, type TemplatePart } from '../src/composer/from-template.ts';

const template: Email = {
  sender: 'ana',
  subject: 'Spring hours',
  preview: 'Ten to four',
  replyTo: 'ana@foldwell.example',
  text: { words: 'By hand.', over: 'x' },
  blocks: [{ kind: 'text', id: 't', doc: paragraphs('Ten to four.') }],
};
const step = blankEmail(() => 'mail', 'Mail');
step.email = {
  ...step.email,
  sender: 'ines',
  subject: 'Hello',
  text: { words: 'My own words', over: 'x' },
  blocks: [
    { kind: 'divider', id: 'a' },
    { kind: 'divider', id: 'b' },
  ],
};
const doc = { ...blankSequence('Letters', 'letters'), steps: [step] };
const taking = (...fields: TemplatePart['field'][]) =>
  emailSteps(applyCommands(doc, takeParts(step, { template: 'spring', email: template }, new Set(fields))).doc)[0]
    ?.email as Email;

test('all that a template replaces is said, and nothing that stays', () => {
  const words = (t: Email) =>
    partsOf(step.email, t, (id) => ({ ines: 'Inês', ana: 'Ana' })[id] ?? 'the default').map((p) => p.words);
  expect(words(template)).toEqual([
    'Content: 2 blocks give way to the template’s',
    'Subject: “Hello” becomes “Spring hours”',
    'Preview text: nothing becomes “Ten to four”',
    'Sender: Inês becomes Ana',
    'Answers go to: nothing becomes “ana@foldwell.example”',
    'Plain text: the template’s own',
  ]);
  const { text: _, replyTo: __, ...bare } = template;
  expect(words({ ...bare, subject: '', preview: '', sender: 'ines' })).toEqual([
    'Content: 2 blocks give way to the template’s',
    'Plain text: what was written by hand goes, it is made from the email again',
  ]);
});

test('only what is chosen is taken', () => {
  const only = taking('subject');
  expect(only).toEqual({ ...step.email, subject: 'Spring hours' });
  const all = taking('content', 'subject', 'preview', 'sender', 'replyTo', 'toName', 'text');
  expect({ ...all, blocks: all.blocks.map((b) => ({ ...b, id: 't' })) }).toEqual({ ...template, template: 'spring' });
  expect(taking('content')).toMatchObject({
    sender: 'ines',
    subject: 'Hello',
    text: { words: 'My own words' },
    template: 'spring',
  });
});
