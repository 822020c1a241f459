import { z } from 'zod';
import { writtenSchema } from '../words/index.ts';
import { blockSchema } from './blocks/index.ts';

/** How an email is made: laid out in the house style, like a letter, as text alone, or from a source of one's own. */
export const emailModes = ['designed', 'letter', 'text', 'html'] as const;
export type EmailMode = (typeof emailModes)[number];

/** The content of one email. Subject, preview text, the name in the To line and the addresses are templates. */
export const emailSchema = z
  .object({
    /** Id of a sender, or '' for the workspace's default. */
    sender: z.string(),
    subject: z.string().max(500),
    preview: z.string().max(500),
    blocks: z.array(blockSchema).max(200),
    /** Designed where it is absent. */
    mode: z.enum(emailModes).optional(),
    /** The source of an email in the mode "html". */
    html: z.string().max(300_000).optional(),
    /** A plain-text part written by hand, and a sign of the automatic one that it was written over. */
    text: z.object({ words: z.string().max(100_000), over: z.string() }).nullish(),
    /** What it is written in, where that is not the language of the house. */
    language: writtenSchema.optional(),
    /** Where answers go, or '' for the sender. */
    replyTo: z.string().max(254).optional(),
    /** The reader's name in the To line. */
    toName: z.string().max(200).optional(),
    /** Id of the offer that it makes: its code, its deadline, its timer. */
    offer: z.string().max(60).optional(),
    /** Id of the template that it was begun from. */
    template: z.string().max(60).optional(),
  })
  .meta({ id: 'Email', description: 'What an email says, block by block, and from whom.' });
export type Email = z.infer<typeof emailSchema>;

/** Fields of an email that are set as a whole. */
export const emailFields = [
  'sender',
  'subject',
  'preview',
  'mode',
  'html',
  'text',
  'language',
  'replyTo',
  'toName',
  'offer',
  'template',
] as const;
/** Those of them that are taken away by setting them to null. */
export const optionalOfEmail: ReadonlySet<string> = new Set([
  'mode',
  'html',
  'text',
  'language',
  'replyTo',
  'toName',
  'offer',
  'template',
]);
export const modeOf = (email: Pick<Email, 'mode'>): EmailMode => email.mode ?? 'designed';
