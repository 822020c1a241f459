import { z } from 'zod';
import { figureSchema } from './figures.ts';
import { aroundParts, type SurroundingPart } from './surroundings.ts';
import {
  afterSchema,
  blockSchema,
  commandSchema,
  conditionSchema,
  emailSchema,
  faceSchema,
  isZone,
  networks,
  readAddress,
  offerSchema,
  repeatParts,
  wallSchema,
  writtenSchema,
} from '@ascenso/core';

/** An address, as `readAddress` writes it. */
const email = z
  .string('Write an email address such as marta@foldwell.example.')
  .meta({ format: 'email', description: 'In any letters (RFC 6531); kept in lower case, its domain by A-labels.' })
  .transform((text, ctx) => {
    const read = readAddress(text);
    if ('email' in read) return read.email;
    const words = text.trim() === '' ? '' : `“${text.trim().slice(0, 60)}” ${read.why}. `;
    ctx.addIssue({ code: 'custom', message: `${words}Write an email address such as marta@foldwell.example.` });
    return z.NEVER;
  });
export { email as emailAddress };
const zone = z.string().refine(isZone, 'Use an IANA time zone such as Europe/Lisbon.');
/** Values of attributes: text, number, yes/no, list of text, or null to clear. */
const attributeValues = z.record(
  z.string().max(60),
  z.union([z.string().max(2000), z.number(), z.boolean(), z.array(z.string().max(200)).max(100), z.null()]),
);

/** Words that stand in emails as they are: what looks like a field in them would arrive with its braces. */
const noBraces = (text: string) => !/\{\{|\}\}/.test(text);
const BRACES = 'Take the {{ and }} out: fields are not filled here.';
export const signInRequest = z.strictObject({ email, password: z.string().min(1, 'Type your password.').max(200) });
/** Another password. Its length is what NIST SP 800-63B, rev. 4, asks of one that stands alone (from memory). */
export const passwordRequest = z
  .strictObject({
    old: z.string().min(1, 'Type your current password.').max(200),
    next: z.string().min(15, 'Take 15 characters at least: a few words in a row are easy to keep.').max(200),
  })
  .refine(({ old, next }) => old !== next, { path: ['next'], error: 'That is the password you have.' });
export const newSequenceRequest = z.strictObject({
  name: z.string().trim().min(1, 'Give the sequence a name.').max(120),
  /** A pattern to begin with, or a sequence to make a copy of. */
  pattern: z.string().max(60).optional(),
  copyOf: z.uuid('Choose a sequence.').optional(),
  /** One email that goes once, to everybody whom it is for. */
  oneOff: z.boolean().optional(),
});
export type NewSequence = z.infer<typeof newSequenceRequest>;
/** Commands of one edit, at most. */
export const MAX_COMMANDS = 500;
export const saveRequest = z.strictObject({
  /** Revision that the edits were made on. */
  base: z.int().min(0),
  edits: z
    .array(
      z.strictObject({
        /** An id of this edit's own: sent again, since no answer came, it counts once. */
        id: z.uuid().optional(),
        commands: z.array(commandSchema).min(1),
        role: z.enum(['edit', 'undo', 'redo']),
      }),
    )
    .min(1)
    .max(MAX_COMMANDS)
    .refine(
      (edits) => edits.reduce((n, e) => n + e.commands.length, 0) <= MAX_COMMANDS,
      `${MAX_COMMANDS} commands at most: save in parts.`,
    ),
});
/** That somebody has a sequence open: in which tab, at which email (null for the plan), and up to which revision it is known. */
export const hereRequest = z.strictObject({
  tab: z.uuid(),
  step: z.string().max(60).nullable(),
  revision: z.int().min(0),
});
export const publishRequest = z.strictObject({
  revision: z.int(),
  /** What becomes of the people inside: they finish on their version, carry on in the new one, or leave. */
  inside: z.enum(['finish', 'carry-on', 'leave']).default('finish'),
  /** To how many people a send to everybody goes, as it was shown. */
  people: z.int().min(0).optional(),
});
/** Live sequences that take on what the house has changed. */
export const republishRequest = z.strictObject({ sequences: z.array(z.uuid()).min(1, 'Choose a sequence.').max(500) });
export type Inside = z.infer<typeof publishRequest>['inside'];
/** Pausing, and putting away. Who is inside of a sequence that is put away leaves it. */
export const statusRequest = z.strictObject({ status: z.enum(['paused', 'archived']) });
/** An email is too late when it should have gone out so many hours ago. */
const lateHours = z.int().min(1, 'An hour or more.').max(8760, 'A year at most.').default(24);
export const resumeRequest = z.strictObject({
  /** What becomes of what should have gone out meanwhile: all of it goes, the late ones are left out, or everything moves on. */
  overdue: z.enum(['send', 'skip', 'shift']),
  lateHours,
});
export type Resume = z.input<typeof resumeRequest>;
export const addPeopleRequest = z.union(
  [
    z.strictObject({ person: z.uuid('Choose a person.') }),
    /** Everyone in a segment; `count` is the number that was agreed to. */
    z.strictObject({ segment: z.uuid('Choose a segment.'), count: z.int().min(0) }),
  ],
  'Choose a person or a segment.',
);
/** What is known of everybody beside the workspace's own attributes, by its column in a file of people: no attribute is called so. */
export const COLUMNS_OF_EVERYBODY = ['email', 'time_zone', 'tags', 'points', 'lists', 'mail', 'known_since'] as const;
const attributeLabel = z.string().trim().min(1, 'Give the attribute a name.').max(60);
/** What a text can be: some values, each once whatever its capitals. */
const attributeOptions = z
  .array(z.string().trim().min(1, 'A value needs a word.').max(100))
  .max(100, '100 values at most.')
  .refine((all) => new Set(all.map((o) => o.toLowerCase())).size === all.length, 'Two of the values are the same.')
  .refine((all) => all.length !== 1, 'Name two values at least.');
export const attributeRequest = z.strictObject({
  key: z
    .string()
    .regex(/^[a-z][a-z0-9_]{0,59}$/, 'A key is small letters, figures and _, and begins with a letter.')
    .refine(
      (key) => !(COLUMNS_OF_EVERYBODY as readonly string[]).includes(key),
      'That is known of everybody already: choose another key.',
    ),
  label: attributeLabel,
  type: z.enum(['text', 'number', 'date', 'yes-no', 'list']),
  options: attributeOptions.default([]),
});
export const attributeChange = z.strictObject({
  label: attributeLabel.optional(),
  options: attributeOptions.optional(),
});
/** One email to one person: from a template, or from nothing; under a list, or as service mail. */
export const letterRequest = z.strictObject({ template: z.uuid().nullable(), list: z.uuid().nullable() });
export const attributeOrder = z.strictObject({ keys: z.array(z.string().max(60)).min(1).max(500) });
export const segmentRequest = z.strictObject({
  name: z.string().trim().min(1, 'Give the segment a name.').max(80),
  rule: conditionSchema,
  folder: z.string().trim().max(60).default(''),
});
export const capRequest = z.strictObject({
  dailyCap: z.int('A cap is a whole number.').min(1, 'One email a day at least.').max(50).nullable(),
});
export const graceRequest = z.strictObject({
  minutes: z.int('Whole minutes.').min(0, 'No minutes at least.').max(60, 'An hour at most.'),
});
export const testSendRequest = z.strictObject({
  to: email,
  person: z.uuid('Choose a person to read it as.'),
  /** The event that fills event fields, or null. */
  event: z.uuid().nullable(),
});
/** What an address carries as JSON. */
const inAddress = <T extends z.ZodType>(of: T, wrong: string) =>
  z
    .string()
    .max(20_000)
    .transform((text, ctx): unknown => {
      try {
        return JSON.parse(text);
      } catch {
        ctx.addIssue({ code: 'custom', message: wrong });
        return z.NEVER;
      }
    })
    .pipe(of);
/** A condition in an address: its JSON. */
export const ruleInAddress = inAddress(conditionSchema, 'That is no condition.');
/** A figure of a sequence as an address carries it: JSON. */
export const figureInAddress = inAddress(figureSchema, 'That is no figure.');
/** Parts of what drafts refer to, as an address carries them: names with commas between. */
export const partsInAddress = z
  .string()
  .transform((text) => text.split(','))
  .refine(
    (all): all is SurroundingPart[] => all.every((p) => (aroundParts as readonly string[]).includes(p)),
    `Parts are ${aroundParts.join(', ')}, with commas between.`,
  );
/** Some people, by their ids. */
export const idsInAddress = z.array(z.uuid()).max(200);
export const personRequest = z.strictObject({
  email,
  attributes: attributeValues.default({}),
  zone: zone.nullable().default(null),
  lists: z.array(z.uuid()).max(50).default([]),
});
export const personChange = z.strictObject({
  email: email.optional(),
  attributes: attributeValues.optional(),
  zone: zone.nullable().optional(),
  addTag: z.string().trim().min(1).max(60).optional(),
  removeTag: z.string().optional(),
  points: z.int('Points are a whole number.').min(-1_000_000).max(1_000_000).optional(),
});
/** Erasing is for good: whoever does it types the address. */
export const eraseRequest = z.strictObject({ email });
export const senderAddressRequest = z.strictObject({ email });
export const membershipRequest = z.strictObject({
  list: z.uuid('Choose a list.'),
  state: z.enum(['confirmed', 'left']),
});
export const listRequest = z.strictObject({ name: z.string().trim().min(1, 'Give the list a name.').max(80) });
export const listChange = z.strictObject({
  name: z.string().trim().min(1, 'Give the list a name.').max(80).optional(),
  publicName: z.string().trim().max(80).optional(),
  told: z.string().trim().max(500).optional(),
});
export const tagChange = z.strictObject({ tag: z.string().trim().min(1, 'Give the tag a name.').max(60) });
const fieldType = z.enum(['text', 'number', 'date', 'yes-no', 'list']);
const eventKind = {
  label: z.string().trim().min(1, 'Say how it is called on the screen.').max(80),
  fields: z
    .array(
      z.strictObject({
        name: z.string().regex(/^[a-z][a-z0-9_]{0,59}$/i, 'Use letters, digits and _.'),
        type: fieldType,
      }),
    )
    .max(50)
    .refine((fields) => new Set(fields.map((f) => f.name)).size === fields.length, 'Each field has a name of its own.'),
  sample: z.record(z.string(), z.unknown()).default({}),
};
export const eventKindRequest = z.strictObject({
  name: z.string().regex(/^[a-z][a-z0-9._-]{1,59}$/, 'Use small letters, digits, dots and dashes, such as order.paid.'),
  ...eventKind,
});
/** Changes a kind in its place; its name stays, since senders use it. */
export const eventKindChange = z.strictObject(eventKind);
const mapped = z.string().max(120);
/** Which fields of the items of a list are shown: remembered for the next block. */
export const mappingRequest = z.strictObject({
  list: z.string().min(1).max(120),
  mapping: z.strictObject({
    ...(Object.fromEntries(repeatParts.map((p) => [p, mapped])) as Record<(typeof repeatParts)[number], typeof mapped>),
    link: mapped,
  }),
});
export const senderRequest = z.strictObject({
  name: z.string().trim().min(1, 'Say who it comes from.').max(80).refine(noBraces, BRACES),
  email,
  fields: z.record(z.string(), z.string().max(300).refine(noBraces, BRACES)).default({}),
  /** Whose own it is from now on; as it was where nothing is said. */
  whose: z.enum(['mine', 'nobody']).optional(),
});
const colour = z.string().regex(/^#[0-9a-f]{6}$/i, 'Write a colour such as #6b3a22.');
const px = (least: number, most: number) =>
  z.int('Whole px.').min(least, `${least} px at least.`).max(most, `${most} px at most.`);
const utm = z.string().max(120);
const webAddress = z
  .string()
  .regex(/^https:\/\/\S+$/, 'Write the address with https://.')
  .max(500);
/** What changes of the house style; the rest stays. */
export const styleRequest = z
  .strictObject({
    brand: z.string().max(80).refine(noBraces, BRACES),
    language: writtenSchema,
    logo: z.strictObject({
      file: z.union([z.literal(''), z.uuid()]),
      width: px(40, 600),
      address: z.union([z.literal(''), webAddress]),
    }),
    font: z.string().regex(/^[\w\s,'-]{1,200}$/, 'Write font names, parted by commas.'),
    headingFont: z.string().regex(/^[\w\s,'-]{1,200}$/, 'Write font names, parted by commas.'),
    size: px(13, 24),
    titleSize: px(16, 60),
    headingSize: px(14, 48),
    width: px(480, 700),
    page: colour,
    sheet: colour,
    text: colour,
    soft: colour,
    accent: colour,
    onAccent: colour,
    link: colour,
    line: colour,
    radius: px(0, 40),
    social: z
      .array(
        z.strictObject({
          network: z.enum(networks),
          address: webAddress,
        }),
      )
      .max(8),
    faces: z
      .array(z.strictObject({ name: z.string().trim().min(1, 'Give the face a name.').max(40), face: faceSchema }))
      .max(20, '20 faces at most.'),
    campaign: z.strictObject({ source: utm, medium: utm, campaign: utm, content: utm }),
    postalAddress: z.string().trim().min(1, 'Write the postal address.').max(300).refine(noBraces, BRACES),
  })
  .partial();
const libraryName = z.string().trim().min(1, 'Give it a name.').max(80);
export const sharedRequest = z.strictObject({ name: libraryName, blocks: z.array(blockSchema).min(1).max(60) });
export const templateRequest = z.strictObject({
  name: libraryName,
  about: z.string().trim().max(300, 'At most 300 characters.').default(''),
  email: emailSchema,
  private: z.boolean(),
});
export const fileChange = z.strictObject({
  name: z.string().trim().min(1, 'Give the file a name.').max(200).optional(),
  folder: z.string().trim().max(80).optional(),
  alt: z.string().trim().max(300).optional(),
  keywords: z.array(z.string().trim().min(1).max(40)).max(20).optional(),
});
export const wordRequest = z.strictObject({ word: z.string().trim().min(1).max(60) });
export const commentRequest = z.strictObject({
  block: z.string().max(60).nullable(),
  text: z.string().trim().min(1, 'Write what you want to say.').max(2000),
});
export const resolveRequest = z.strictObject({ resolved: z.boolean() });
export const approvalRequest = z.strictObject({ status: z.enum(['asked', 'approved']) });
export const markRequest = z.strictObject({ name: libraryName });
export const nothingRequest = z.strictObject({});
/** An origin as a browser sends it: scheme and host, nothing behind. */
const isOrigin = (text: string) => URL.canParse(text) && new URL(text).origin === text && /^https?:/.test(text);
export const keyRequest = z.strictObject({
  name: z.string().trim().min(1, 'Give the key a name.').max(80),
  /** Pages that may use it from a browser; none for a key of servers. */
  origins: z
    .array(
      z.string().refine(isOrigin, 'Write it as a browser sends it: https://foldwell.example, with nothing behind.'),
    )
    .max(20)
    .default([]),
});
/** The versions of a chain, in order; null is "else". */
export const seenRequest = z.strictObject({ chain: z.array(conditionSchema.nullable()).min(1).max(20) });
/** `quick` is content with an estimate where counting takes long. */
export const conditionRequest = z.strictObject({ condition: conditionSchema, quick: z.boolean().optional() });
export const aheadRequest = z.strictObject({ by: z.enum(['hour', 'day', 'week']) });

export const offerRequest = offerSchema;
/** A timer to look at: its face in the colours of the house, and how many seconds it has left. */
export const timerRequest = z.strictObject({
  face: faceSchema,
  /** Whole seconds, 0 for what it shows at the end. */
  left: z.int().min(0).max(86_400_000),
  after: afterSchema,
  /** Language of a reader. */
  language: z.string().max(20).default(''),
});
/** Links of one email, filled for whoever it is read as, or `file:ID`. */
export const followLinksRequest = z.strictObject({ addresses: z.array(z.string().min(1).max(4000)).max(200) });
/** A page whose description is asked for; `keep` takes its picture into the library. */
export const pageRequest = z.strictObject({
  address: z.string().trim().min(1, 'Write the address.').max(2000),
  keep: z.boolean(),
});
/** A picture address of a timer for use outside of emails. */
export const timerLinkRequest = z.strictObject({ face: faceSchema, wall: wallSchema, zone, after: afterSchema });

/** Money in major units, as a shop says it: 48.5. */
const amount = z.number('total is a number.').min(0, 'total is 0 or more.').max(10_000_000);
const order = z.string().trim().min(1, 'order is missing: give the number of the order.').max(120);
export const codePath = z.object({ code: z.string().max(200).meta({ description: 'As the customer typed it.' }) });
export const subscriberPath = z.object({ email: email.meta({ description: "The person's email address." }) });
/** A shop tells that a code was used in an order. */
export const redeemRequest = z
  .strictObject({
    order: order.meta({ description: 'Number of the order: the same one again counts once.' }),
    email: email.optional().meta({ description: 'Who orders. Needed for a code that many people share.' }),
    total: amount.meta({ description: 'What the order came to, in major units.', example: 48.5 }),
    currency: z
      .string()
      .regex(/^[A-Z]{3}$/, 'currency is a code of ISO 4217, such as EUR.')
      .optional(),
  })
  .meta({ id: 'Redemption' });
/** The order was taken back: the code is good again, until it closes. */
export const takeBackRequest = z.strictObject({ order }).meta({ id: 'TakeBack' });

/** A moment by RFC 3339, 5.6, which allows "t" and "z" too; a year before 100 is a slip of the sender. */
const moment = (field: string) =>
  z
    .string()
    .toUpperCase()
    .pipe(
      z.iso
        .datetime({ offset: true, error: `${field} is a date and time of RFC 3339, such as 2026-03-06T12:00:00Z.` })
        .refine((text) => !text.startsWith('00'), `${field} lies before the year 100: check the year.`),
    )
    .meta({ format: 'date-time' });

/** A person as the intake takes them: by address, with what is known. Unknown attributes are an error. */
export const subscriberRequest = z
  .strictObject({
    email,
    attributes: attributeValues
      .default({})
      .meta({ description: 'Values by attribute key. Only attributes that exist.' }),
    zone: zone.optional().meta({ description: 'IANA time zone', example: 'Europe/Lisbon' }),
    lists: z
      .array(z.string().max(80))
      .max(50)
      .default([])
      .meta({ description: 'Names or ids of lists that the person has confirmed.' }),
    confirmed_at: moment('confirmed_at').optional().meta({
      description:
        'When they confirmed. It opens mail again for somebody who unsubscribed, or whose address bounced, before that moment; without it nobody who has left is mailed again.',
    }),
  })
  .meta({ id: 'Subscriber' });

/** CloudEvents 1.0 in JSON. `subject` is the person's email address; `data` the payload. */
export const cloudEvent = z
  .looseObject({
    specversion: z.literal('1.0', 'specversion must be "1.0".'),
    id: z.string().min(1, 'id is missing: give every event an id of its own.').max(200),
    source: z.string().min(1, 'source is missing: say where the event comes from.').max(300),
    type: z.string().regex(/^[a-z][a-z0-9._-]{1,59}$/, 'type is the name of the event, such as order.paid.'),
    subject: email.meta({ description: "The person's email address." }),
    time: moment('time').optional(),
    datacontenttype: z
      .string()
      .max(200)
      .optional()
      .meta({ description: 'Media type of the data; JSON where it is not said.' }),
    dataschema: z.string().max(2000).optional(),
    data: z.unknown().optional().meta({
      description: 'Any JSON. Fields of an object can be used in emails; anything else is the field "value".',
    }),
    data_base64: z.base64('data_base64 is base64 of RFC 4648.').optional(),
  })
  .refine((event) => event.data === undefined || event.data_base64 === undefined, {
    path: ['data_base64'],
    error: 'data_base64: an event has data or data_base64, not both.',
  })
  .meta({ id: 'CloudEvent' });
export type CloudEvent = z.infer<typeof cloudEvent>;
/** At most this many events in one batch. */
export const MAX_BATCH = 1000;
