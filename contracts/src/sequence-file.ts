import { z } from 'zod';
import {
  readAddress,
  atomSchema,
  blockKinds,
  blockSchema,
  conditionSchema,
  faceSchema,
  fromOlder,
  lookSchema,
  offerSchema,
  richTextSchema,
  sequenceSchema,
  whenSchema,
} from '@ascenso/core';

const id = z.string().min(1).max(60).meta({ description: 'Id that the sequence refers to it by.' });
const name = z.string().min(1).max(200);
const fieldType = z.enum(['text', 'number', 'date', 'yes-no', 'list']);

/** Largest file that can be imported, bytes. */
export const MAX_SEQUENCE_FILE = 40_000_000;

/**
 * A sequence with all that it needs to be set up elsewhere: its emails, and by name what it refers to. On import each thing
 * is found by its name (a picture or file by its content) or made.
 */
export const sequenceFileSchema = z
  .strictObject({
    format: z.literal('ascenso-sequence', 'This is no exported sequence.'),
    version: z.literal(2, 'This file was written by a later version of Ascenso.'),
    sequence: sequenceSchema,
    lists: z.array(z.strictObject({ id, name })).max(50),
    segments: z.array(z.strictObject({ id, name, rule: conditionSchema })).max(50),
    senders: z
      .array(
        z.strictObject({
          id,
          name,
          email: z
            .string()
            .refine((e) => 'email' in readAddress(e), 'Write an email address.')
            .meta({ format: 'email' }),
          fields: z.record(z.string(), z.string().max(300)),
        }),
      )
      .max(50),
    attributes: z
      .array(
        z.strictObject({
          key: z.string().min(1).max(60),
          label: name,
          type: fieldType,
          options: z.array(z.string().max(100)).max(100).optional(),
        }),
      )
      .max(200),
    events: z
      .array(
        z.strictObject({
          name: z.string().min(1).max(60),
          label: name,
          fields: z.array(z.strictObject({ name: z.string().min(1).max(60), type: fieldType })).max(50),
          sample: z.record(z.string(), z.unknown()),
        }),
      )
      .max(50),
    /** Blocks that its emails share with others: found by their name, or made. */
    shared: z
      .array(z.strictObject({ id, name, blocks: z.array(blockSchema).max(60) }))
      .max(200)
      .default([]),
    /** Offers that its emails make, without their codes: found by their name, or made. */
    offers: z
      .array(z.strictObject({ id, name, offer: offerSchema }))
      .max(50)
      .default([]),
    /** Other sequences that it starts or stops: found by name, or left to be chosen. */
    sequences: z.array(z.strictObject({ id, name })).max(50),
    files: z
      .array(z.strictObject({ id, name, content: z.base64('A file is written in base64.') }))
      .max(200)
      .meta({ description: 'Pictures and files, base64.' }),
  })
  .meta({
    id: 'SequenceFile',
    title: 'A sequence of Ascenso, as a file',
    description: 'A sequence with everything that it needs to be set up elsewhere.',
  });
export type SequenceFile = z.infer<typeof sequenceFileSchema>;

/** A file of version 1 as one of version 2: offers had their words apart from their figure. Anything else is left as it is. */
function asOfToday(file: unknown): unknown {
  if (typeof file !== 'object' || file === null || !('version' in file) || file.version !== 1) return file;
  const offers = 'offers' in file && Array.isArray(file.offers) ? (file.offers as unknown[]) : [];
  return { ...file, version: 2, offers: offers.map((o) => (older.safeParse(o).success ? today(older.parse(o)) : o)) };
}
const older = z.looseObject({
  offer: z.looseObject({
    words: z.string(),
    discount: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal(['percent', 'amount']), value: z.number() }),
      z.object({ kind: z.literal('other') }),
    ]),
  }),
});
const today = (o: z.infer<typeof older>) => ({ ...o, offer: fromOlder(o.offer) });

/** A file as it is imported, of an earlier version too. */
export const importedFileSchema = z.preprocess(asOfToday, sequenceFileSchema);

// Named in the schema, so that whoever reads it finds its way.
const NAMED: [z.ZodType, string, string][] = [
  [sequenceSchema, 'Sequence', 'How it starts, whom it mails and under what, and its steps in order.'],
  [blockSchema, 'Block', 'A block of an email, by its kind.'],
  [offerSchema, 'Offer', 'What is given, where its codes come from, when it closes, and what is shown after that.'],
  [atomSchema, 'Question', 'One question about a person, or about their passage through the sequence.'],
  [richTextSchema, 'RichText', 'Paragraphs and lists, with marks, links and fields.'],
  [faceSchema, 'TimerFace', 'How a countdown looks.'],
  [lookSchema, 'Look', 'What a block looks like where it differs from the house style.'],
  [whenSchema, 'ShownWhen', 'For whom a block is shown.'],
  ...Object.entries(blockKinds).map(([kind, { schema }]): [z.ZodType, string, string] => [
    schema,
    `${kind.replace(/(^|-)(\w)/g, (_, _dash, letter: string) => letter.toUpperCase())}Block`,
    `A block of the kind “${kind}”.`,
  ]),
];

/** What several types are allowed for is written as anyOf, which validators take in their strict mode. */
function plainTypes(schema: unknown): unknown {
  if (Array.isArray(schema)) return schema.map(plainTypes);
  if (typeof schema !== 'object' || schema === null) return schema;
  const { type, format, ...others } = Object.fromEntries(Object.entries(schema).map(([k, v]) => [k, plainTypes(v)]));
  // What base64 is stands in contentEncoding: as a format it is known to no specification.
  const rest = format === undefined || format === 'base64' ? others : { ...others, format };
  if (!Array.isArray(type)) return type === undefined ? rest : { type, ...rest };
  return { ...rest, anyOf: type.map((one: unknown) => ({ type: one })) };
}

/** The same as JSON Schema (draft 2020-12): what docs/sequence-file.schema.json holds. */
export function sequenceFileJsonSchema(): object {
  for (const [schema, named, description] of NAMED) z.globalRegistry.add(schema, { id: named, description });
  return plainTypes(
    z.toJSONSchema(sequenceFileSchema, { io: 'input', unrepresentable: 'any', reused: 'inline' }),
  ) as object;
}
