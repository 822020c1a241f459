import { z } from 'zod';
import { writtenSchema } from '../words/index.ts';

const words = (max: number) => z.string().trim().max(max);
const key = z
  .string()
  .regex(/^[a-z][a-z0-9_]{0,39}$/, 'A name is small letters, figures and _, and begins with a letter.');

/** What choosing an option does, once they have confirmed. */
const setsSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('nothing') }),
  z.strictObject({ kind: z.literal('tag'), tag: z.string().trim().min(1, 'Name the tag.').max(60) }),
  z.strictObject({ kind: z.literal('list'), list: z.uuid('Choose the list.') }),
  z.strictObject({
    kind: z.literal('attribute'),
    key: z.string().min(1, 'Choose the attribute.').max(60),
    value: words(200),
  }),
]);
export type OptionSets = z.infer<typeof setsSchema>;

export const formFieldSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('attribute'),
    id: z.string().min(1).max(40),
    key: z.string().min(1, 'Choose the attribute.').max(60),
    label: words(120),
    required: z.boolean(),
  }),
  /** One of some options. Its name is what conditions ask for. */
  z.strictObject({
    kind: z.literal('choice'),
    id: z.string().min(1).max(40),
    name: key,
    label: words(120),
    options: z
      .array(
        z.strictObject({
          id: z.string().min(1).max(40),
          label: z.string().trim().min(1, 'Give every option a label.').max(120),
          sets: setsSchema,
        }),
      )
      .min(2, 'A choice needs two options at least.')
      .max(20),
  }),
]);
export type FormField = z.infer<typeof formFieldSchema>;

/** A sign-up form: what it asks for, the words agreed to, and what comes after. */
export const formSchema = z
  .strictObject({
    name: z.string().trim().min(1, 'Give the form a name.').max(80),
    language: writtenSchema,
    title: z.string().trim().min(1, 'Say what one signs up for.').max(120),
    intro: words(600),
    fields: z.array(formFieldSchema).max(20),
    button: z.string().trim().min(1, 'Give the button a word.').max(60),
    /** What they agree to, in the words that are kept with them. */
    consent: z.string().trim().min(10, 'Say what they agree to: these words are kept with each of them.').max(600),
    /** Lists that are joined by confirming. */
    lists: z.array(z.uuid()).min(1, 'Choose the list that they join.').max(10),
    /** What is shown once they have confirmed: words of ours with a file to fetch ('' for none), or a page of one's own. */
    after: z.discriminatedUnion('kind', [
      z.strictObject({
        kind: z.literal('words'),
        title: words(120),
        text: words(600),
        file: z.union([z.uuid(), z.literal('')]),
      }),
      z.strictObject({
        kind: z.literal('page'),
        address: z.url({ protocol: /^https?$/, error: 'Write the address of the page, with https://.' }),
      }),
    ]),
    /** Days after which somebody who has not confirmed is forgotten. */
    forget: z.int('Whole days.').min(1, 'A day at least.').max(90, '90 days at most.'),
  })
  .superRefine(({ fields }, ctx) => {
    const names = fields.map((f) => (f.kind === 'choice' ? f.name : f.key));
    const twice = names.find((n, i) => names.indexOf(n) !== i);
    if (twice !== undefined)
      ctx.addIssue({ code: 'custom', path: ['fields'], message: `Two fields are “${twice}”: take one of them out.` });
  });
export type SignUpForm = z.infer<typeof formSchema>;

/** Names that the events of forms have for themselves. */
export const ASKED_EVENT = 'form.asked';
export const FORM_EVENT = 'form.sent';
