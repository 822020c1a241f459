import { z } from 'zod';
import { writtenSchema } from '../words/index.ts';
import { blockSchema } from './blocks/index.ts';

/** How an email is made: laid out in the house style, like a letter, as text alone, or from a source of one's own. */
export const emailModes = ['designed', 'letter', 'text', 'html'] as const;
export type EmailMode = (typeof emailModes)[number];

const parameter = z.string().max(200);

/** The content of one email. Subject, preview text, the name in the To line and the addresses are templates. */
const schema = z
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
    /** What is not counted of it. */
    uncounted: z
      .array(z.enum(['openings', 'clicks']))
      .min(1)
      .max(2)
      .optional(),
    /** Campaign parameters of its links in place of the house's. Templates; '' leaves one out, absent is as the house has it. */
    campaign: z
      .object({ source: parameter, medium: parameter, campaign: parameter, content: parameter })
      .partial()
      .optional(),
    /** Ids of the hosted files that go along with it. */
    attachments: z
      .array(z.string().regex(/^[\w-]{1,60}$/, 'Choose a file of the library.'))
      .min(1)
      .max(5, 'Five files at most.')
      .optional(),
  })
  .meta({ id: 'Email', description: 'What an email says, block by block, and from whom.' });
export type Email = z.infer<typeof schema>;
export const emailSchema: z.ZodType<Email> = schema;

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
  'uncounted',
  'campaign',
  'attachments',
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
  'uncounted',
  'campaign',
  'attachments',
]);
export const modeOf = (email: Pick<Email, 'mode'>): EmailMode => email.mode ?? 'designed';

/** What cannot be told of an email once it is out: openings of one without pictures, and what is not counted of it. */
export const unseenOf = (email: Email): { openings: boolean; clicks: boolean } => ({
  openings: modeOf(email) === 'text' || (email.uncounted?.includes('openings') ?? false),
  clicks: email.uncounted?.includes('clicks') ?? false,
});
