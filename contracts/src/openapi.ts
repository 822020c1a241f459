import { z } from 'zod';
import { createDocument, type ZodOpenApiResponsesObject } from 'zod-openapi';
import {
  cloudEvent,
  codePath,
  MAX_BATCH,
  redeemRequest,
  subscriberPath,
  subscriberRequest,
  takeBackRequest,
} from './requests.ts';

const problem = z
  .object({
    title: z.string().meta({ description: 'Name of the status.' }),
    status: z.int(),
    detail: z.string().meta({ description: 'What is wrong, and what to do.' }),
    code: z.string().meta({ description: 'For programs: stays the same when the words change.' }),
    field: z.string().optional().meta({ description: 'Path of the field that is wrong, or name of the header.' }),
  })
  .meta({ id: 'Problem', description: 'Problem details (RFC 9457). Nothing was changed.' });
const takenBody = z
  .object({
    stored: z.int(),
    repeated: z.int(),
    refused: z.int(),
    events: z
      .array(
        z.object({
          id: z.string().nullable(),
          status: z.enum(['stored', 'repeated', 'refused']),
          error: problem.optional(),
        }),
      )
      .meta({ description: 'What became of each event, in the order in which they were sent.' }),
  })
  .meta({
    id: 'Taken',
    description:
      'How many events were new, had come before, or were refused. What is refused leaves the others as they are.',
  });

const codeBody = z
  .object({
    code: z.string(),
    good: z.boolean(),
    reason: z.enum(['unknown', 'mistyped', 'not-given', 'closed', 'used', 'email-needed']).nullable(),
    message: z.string(),
    offer: z
      .object({
        id: z.uuid(),
        name: z.string(),
        words: z.string(),
        discount: z.looseObject({
          kind: z.enum(['percent', 'amount', 'delivery', 'other']),
          value: z.number().optional(),
          currency: z.string().optional(),
        }),
      })
      .nullable(),
    for: z.email().nullable().meta({ description: 'Whose code it is; null for one that many people share.' }),
    until: z.iso.datetime().nullable().meta({ description: 'When it closes for them.' }),
  })
  .meta({ id: 'Code', description: 'What is known of a code.' });
const usedBody = codeBody
  .extend({
    repeated: z.boolean().meta({ description: 'The order had used it before: this is what was answered then.' }),
  })
  .meta({ id: 'UsedCode', description: 'A code that an order used.' });
const moment = z.iso.datetime();
const personBody = z
  .object({
    format: z.literal('ascenso-person'),
    version: z.literal(1),
    made_at: moment,
    kept_by: z.string(),
    person: z.object({
      email: z.string(),
      attributes: z.record(z.string(), z.unknown()),
      tags: z.array(z.string()),
      zone: z.string().nullable(),
      points: z.int(),
      since: moment,
    }),
    mail: z.object({
      unsubscribed_at: moment.nullable(),
      bounced_at: moment.nullable(),
      complained_at: moment.nullable(),
      paused_until: moment.nullable(),
      days_between: z.int().nullable().meta({ description: 'Days that they want between marketing emails.' }),
    }),
    lists: z.array(z.object({ list: z.string(), state: z.string(), since: moment })),
    consent: z.array(
      z.object({
        list: z.string().nullable(),
        what: z.enum(['asked', 'joined', 'left']),
        at: moment,
        how: z.string(),
        source: z.string(),
        words: z.string(),
        where: z.string().nullable(),
      }),
    ),
    events: z.array(z.object({ name: z.string(), at: moment, data: z.record(z.string(), z.unknown()) })),
    offers: z.array(
      z.object({
        offer: z.string(),
        given_at: moment,
        closes_at: moment.nullable(),
        code: z.string().nullable(),
        used_at: moment.nullable(),
      }),
    ),
    emails: z.array(
      z.object({
        sequence: z.string(),
        sent_at: moment,
        to: z.string(),
        subject: z.string(),
        text: z.string(),
        html: z.string(),
        opened: z.array(moment),
        clicked: z.array(z.object({ at: moment, address: z.string() })),
      }),
    ),
    story: z.array(z.object({ at: moment, text: z.string(), sequence: z.string().nullable() })),
  })
  .meta({ id: 'Person', description: 'Everything that is kept of one person.' });
const nothing = z.object({}).meta({ id: 'Done', description: 'Done: there is nothing more to say.' });

const hookTime = moment.meta({ description: 'When it was decided, on the business clock.' });
/** What a step "call a webhook" sends. */
export const stepHook = z
  .object({
    type: z.literal('sequence.step'),
    timestamp: hookTime,
    data: z.object({
      sequence: z.object({ id: z.uuid(), name: z.string(), version: z.int() }),
      step: z.string().meta({ description: 'Id of the step: stays the same over versions.' }),
      person: z.object({
        id: z.uuid(),
        email: z.string(),
        attributes: z.record(z.string(), z.unknown()),
        tags: z.array(z.string()),
        points: z.int(),
      }),
      event: z.record(z.string(), z.unknown()).meta({ description: 'Payload of the event that started it.' }),
    }),
  })
  .meta({ id: 'SequenceStep', description: 'Somebody has come to a step that calls this address.' });
/** What an offer tells of each code that it gives out. */
export const codeHook = z
  .object({
    type: z.literal('code.issued'),
    timestamp: hookTime,
    data: z.object({
      offer: z.uuid(),
      code: z.string(),
      for: z.string().meta({ description: 'Email address of the person.' }),
      until: moment.nullable().meta({ description: 'When it closes; null for never.' }),
    }),
  })
  .meta({ id: 'CodeIssued', description: 'A code was shown to somebody for the first time.' });

const person = '0199c2a4-7d1e-7cc1-9d43-2b8e0c1f6a55';
const stepExample: z.input<typeof stepHook> = {
  type: 'sequence.step',
  timestamp: '2026-03-06T12:00:00.000Z',
  data: {
    sequence: { id: '0199c2a4-0b7e-7a58-8f1e-6f2d3c4b5a60', name: 'Welcome and stitch guide', version: 3 },
    step: 'tell-the-shop',
    person: {
      id: person,
      email: 'marta@readers.example',
      attributes: { first_name: 'Marta' },
      tags: ['guide'],
      points: 30,
    },
    event: { total: 38 },
  },
};
const codeExample: z.input<typeof codeHook> = {
  type: 'code.issued',
  timestamp: '2026-03-06T12:00:00.000Z',
  data: {
    offer: '0199c2a4-1f3a-7b0c-a2d5-93c1e7f80b21',
    code: 'KIT-AC34-VW7T',
    for: 'marta@readers.example',
    until: '2026-03-08T12:00:00.000Z',
  },
};

/** A call that we make: signed, tried again until it is answered 2xx, six times over a day and a half. */
const called = (operationId: string, summary: string, schema: z.ZodType, example: object) => ({
  post: {
    operationId,
    tags: ['webhooks'],
    summary,
    description:
      'Signed by the Standard Webhooks specification, in the headers webhook-id, webhook-timestamp and webhook-signature. The same webhook-id may come twice: count it once. Redirects are not followed, and private addresses are not called.',
    security: [],
    requestParams: {
      header: z.object({
        'webhook-id': z.string(),
        'webhook-timestamp': z.string().meta({ description: 'Unix time, seconds.' }),
        'webhook-signature': z.string().meta({ description: 'v1, and base64 of HMAC-SHA256.' }),
      }),
    },
    requestBody: { required: true, content: { 'application/json': { schema, example } } },
    responses: {
      '200': { description: 'Any 2xx within 15 seconds: taken.' },
      '410': { description: 'Gone: it is not tried again.' },
      '503': { description: 'Anything else: tried again later, not before Retry-After.' },
    },
  },
});

const json = (schema: z.ZodType) => ({ 'application/json': { schema } });
const refused = (description: string) => ({
  description,
  content: { 'application/problem+json': { schema: problem } },
});

/** What any request can be answered, besides what it asks for. */
const always: ZodOpenApiResponsesObject = {
  '400': refused('The request cannot be read: a broken body, or a % that stands alone in the address.'),
  '401': {
    ...refused('The API key is missing or wrong.'),
    headers: z.object({ 'WWW-Authenticate': z.string().meta({ description: 'Bearer, RFC 6750.' }) }),
  },
  '403': refused('The key is for pages: only from theirs, and only for events.'),
  '404': refused('There is no such thing.'),
  '422': refused('A field is wrong.'),
  '429': {
    ...refused('Too many requests in a minute.'),
    headers: z.object({ 'Retry-After': z.string().meta({ description: 'Seconds.' }) }),
  },
  '500': refused('Something went wrong on our side: the detail holds the number that stands in the log.'),
  '503': {
    ...refused('The database cannot be reached just now.'),
    headers: z.object({ 'Retry-After': z.string().meta({ description: 'Seconds.' }) }),
  },
};
/** Besides, of what has a body. */
const withBody: ZodOpenApiResponsesObject = {
  ...always,
  '409': refused(
    'It contradicts what came before: the same event with another body, or an order that was told otherwise.',
  ),
  '413': refused('The body is over 1 MB.'),
  '415': refused('The media type, character set or content coding is none that is read here.'),
};

/** Attributes of a CloudEvent in binary mode, as headers. */
const binaryHeaders = z.object({
  'ce-specversion': z
    .literal('1.0')
    .optional()
    .meta({ description: 'Of an event in binary mode: the body is its data.' }),
  'ce-id': z.string().optional(),
  'ce-source': z.string().optional(),
  'ce-type': z.string().optional(),
  'ce-subject': z.string().optional().meta({ description: "The person's email address." }),
  'ce-time': z.string().optional(),
});

/** The OpenAPI 3.1 document of the intake: what a shop or a site calls with an API key. */
export function intakeDocument(base: string): object {
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Ascenso intake',
      version: '1',
      description:
        'Events, subscribers and codes come in here. Sending the same event twice counts once. Every error is problem details (RFC 9457) and changes nothing.',
      contact: { name: 'Whoever runs this installation', url: base },
      license: { name: 'For its users', url: base },
    },
    servers: [{ url: base, description: 'This installation' }],
    security: [{ key: [] }],
    tags: [
      { name: 'events', description: 'What people do.' },
      { name: 'people', description: 'Whom emails go to.' },
      { name: 'codes', description: 'Coupon codes of offers.' },
      { name: 'webhooks', description: 'What we call, with what.' },
    ],
    components: {
      securitySchemes: {
        key: { type: 'http', scheme: 'bearer', description: 'A key made under People, Events and keys.' },
      },
    },
    paths: {
      '/intake/events': {
        post: {
          operationId: 'sendEvents',
          tags: ['events'],
          summary: 'One event, or a batch of them',
          description:
            'CloudEvents 1.0 by its HTTP binding: structured, batched, or binary, where headers beginning with ce- carry the attributes and the body is the data.',
          requestParams: { header: binaryHeaders },
          requestBody: {
            required: true,
            content: {
              'application/cloudevents+json': { schema: cloudEvent },
              'application/cloudevents-batch+json': { schema: z.array(cloudEvent).min(1).max(MAX_BATCH) },
              'application/json': { schema: z.unknown().meta({ description: 'Data of an event in binary mode.' }) },
            },
          },
          responses: {
            '202': { description: 'All were taken.', content: json(takenBody) },
            '207': {
              description: 'Some were refused: see each event. The others were taken.',
              content: json(takenBody),
            },
            ...withBody,
          },
        },
      },
      '/intake/subscribers': {
        post: {
          operationId: 'saveSubscriber',
          tags: ['people'],
          summary: 'Adds a person, or updates the one with that address',
          description:
            'What is not named stays as it is. Somebody who has left is mailed again only with confirmed_at.',
          requestBody: { required: true, content: json(subscriberRequest) },
          responses: {
            '200': {
              description: 'Added or updated, and whether mail may go to them.',
              content: json(
                z.object({ id: z.uuid(), mail: z.enum(['ok', 'unsubscribed', 'bounced', 'complained']).nullable() }),
              ),
            },
            ...withBody,
          },
        },
      },
      '/intake/subscribers/{email}': {
        get: {
          operationId: 'readSubscriber',
          tags: ['people'],
          summary: 'Everything that is kept of one person',
          description:
            'Attributes, consent, events, every email as it was sent, and the story: for whoever asks for a copy.',
          requestParams: { path: subscriberPath },
          responses: { '200': { description: 'The person.', content: json(personBody) }, ...always },
        },
        delete: {
          operationId: 'eraseSubscriber',
          tags: ['people'],
          summary: 'Erases a person, for good',
          description:
            'Values, events, story and address are gone, counts stay. Who had unsubscribed is known again by a hash, and not mailed.',
          requestParams: { path: subscriberPath },
          responses: { '200': { description: 'Erased.', content: json(nothing) }, ...always },
        },
      },
      '/intake/codes/{code}': {
        get: {
          operationId: 'readCode',
          tags: ['codes'],
          summary: 'Is this code good, for whom, and until when',
          description: 'Nothing is used up by asking.',
          requestParams: { path: codePath, query: z.object({ email: z.email().optional() }) },
          responses: { '200': { description: 'What is known of it.', content: json(codeBody) }, ...always },
        },
      },
      '/intake/codes/{code}/redeem': {
        post: {
          operationId: 'redeemCode',
          tags: ['codes'],
          summary: 'Uses a code in an order, once',
          description: 'The same order again is answered the same; with another total it is a conflict.',
          requestParams: { path: codePath },
          requestBody: { required: true, content: json(redeemRequest) },
          responses: { '200': { description: 'Used.', content: json(usedBody) }, ...withBody },
        },
      },
      '/intake/codes/{code}/cancel': {
        post: {
          operationId: 'takeCodeBack',
          tags: ['codes'],
          summary: 'Takes a use back',
          description: 'The order was cancelled: the code is good again, until it closes.',
          requestParams: { path: codePath },
          requestBody: { required: true, content: json(takeBackRequest) },
          responses: { '200': { description: 'Taken back.', content: json(nothing) }, ...withBody },
        },
      },
    },
    webhooks: {
      'sequence.step': called('sequenceStep', 'A sequence has come to a step that calls', stepHook, stepExample),
      'code.issued': called('codeIssued', 'A code of an offer was given out', codeHook, codeExample),
    },
  });
}
