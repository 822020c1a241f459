import { z } from 'zod';
import { createDocument } from 'zod-openapi';
import { cloudEvent, MAX_BATCH, subscriberRequest } from './requests.ts';

const errorBody = z
  .object({ error: z.object({ code: z.string(), message: z.string(), field: z.string().optional() }) })
  .meta({ id: 'Error', description: 'What is wrong, where, and what to do. Nothing was changed.' });
const storedBody = z
  .object({ stored: z.int(), repeated: z.int() })
  .meta({ id: 'Stored', description: 'How many events were new, and how many had come before.' });

const json = (schema: z.ZodType) => ({ 'application/json': { schema } });
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
          responses: { '202': { description: 'Stored.', content: json(storedBody) }, ...failures },
        },
      },
      '/intake/subscribers': {
        post: {
          summary: 'Adds a person, or updates the one with that address',
          requestBody: { content: json(subscriberRequest) },
          responses: {
            '200': { description: 'Added or updated.', content: json(z.object({ id: z.uuid() })) },
            ...failures,
          },
        },
      },
    },
  });
}
