import { z } from 'zod';
import { createDocument } from 'zod-openapi';
import { cloudEvent, MAX_BATCH, redeemRequest, subscriberRequest, takeBackRequest } from './requests.ts';

const errorBody = z
  .object({ error: z.object({ code: z.string(), message: z.string(), field: z.string().optional() }) })
  .meta({ id: 'Error', description: 'What is wrong, where, and what to do. Nothing was changed.' });
const storedBody = z
  .object({
    stored: z.int(),
    repeated: z.int(),
    refused: z.int(),
    events: z
      .array(
        z.object({
          id: z.string().nullable(),
          status: z.enum(['stored', 'repeated', 'refused']),
          error: errorBody.shape.error.optional(),
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
        discount: z.looseObject({ kind: z.enum(['percent', 'amount', 'other']), value: z.number().optional() }),
      })
      .nullable(),
    for: z.email().nullable().meta({ description: 'Whose code it is; null for one that many people share.' }),
    until: z.iso.datetime().nullable().meta({ description: 'When it closes for them.' }),
  })
  .meta({ id: 'Code' });

const json = (schema: z.ZodType) => ({ 'application/json': { schema } });
const codePath = z.object({ code: z.string() });
const failures = {
  '401': { description: 'The API key is missing or wrong.', content: json(errorBody) },
  '409': { description: 'The same source and id came before with another body.', content: json(errorBody) },
  '413': { description: 'The body is over 1 MB.', content: json(errorBody) },
  '422': { description: 'A field is wrong. Nothing was stored.', content: json(errorBody) },
};

/** The OpenAPI 3.1 document of the intake: what a shop or a site calls with an API key. */
export function intakeDocument(base: string): object {
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Ascenso intake',
      version: '1',
      description: 'Events and subscribers come in here. Sending the same event twice counts once.',
    },
    servers: [{ url: base }],
    security: [{ key: [] }],
    components: { securitySchemes: { key: { type: 'http', scheme: 'bearer' } } },
    paths: {
      '/intake/events': {
        post: {
          summary: 'One event (CloudEvents 1.0), or a batch of them',
          requestBody: {
            content: {
              'application/cloudevents+json': { schema: cloudEvent },
              'application/cloudevents-batch+json': { schema: z.array(cloudEvent).max(MAX_BATCH) },
            },
          },
          responses: {
            '202': { description: 'All were taken.', content: json(storedBody) },
            '207': {
              description: 'Some were refused: see each event. The others were taken.',
              content: json(storedBody),
            },
            ...failures,
          },
        },
      },
      '/intake/subscribers': {
        post: {
          summary: 'Adds a person, or updates the one with that address',
          requestBody: { content: json(subscriberRequest) },
          responses: {
            '200': {
              description: 'Added or updated, and whether mail may go to them.',
              content: json(
                z.object({ id: z.uuid(), mail: z.enum(['ok', 'unsubscribed', 'bounced', 'complained']).nullable() }),
              ),
            },
            ...failures,
          },
        },
      },
      '/intake/codes/{code}': {
        get: {
          summary: 'Is this code good, for whom, and until when',
          requestParams: { path: codePath, query: z.object({ email: z.email().optional() }) },
          responses: {
            '200': { description: 'What is known of it. Nothing is used up.', content: json(codeBody) },
            ...failures,
          },
        },
      },
      '/intake/codes/{code}/redeem': {
        post: {
          summary: 'Uses a code in an order, once: the same order again answers the same',
          requestParams: { path: codePath },
          requestBody: { content: json(redeemRequest) },
          responses: {
            '200': { description: 'Used.', content: json(codeBody.extend({ repeated: z.boolean() })) },
            ...failures,
          },
        },
      },
      '/intake/codes/{code}/cancel': {
        post: {
          summary: 'Takes a use back: the code is good again, until it closes',
          requestParams: { path: codePath },
          requestBody: { content: json(takeBackRequest) },
          responses: { '200': { description: 'Taken back.' }, ...failures },
        },
      },
    },
  });
}
