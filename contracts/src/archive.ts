import { z } from 'zod';
import { labelledKinds } from './labels.ts';

const named = z.object({ id: z.string(), name: z.string() });
const date = z.number().nullable().describe('Milliseconds since 1970, UTC');

/** What a workspace is set up with, as one file of its archive. Ids are those by which the other files speak of these things. */
export const workspaceFileSchema = z.object({
  format: z.literal('ascenso-workspace'),
  version: z.literal(1),
  name: z.string(),
  zone: z.string().describe('IANA time zone in which its days are counted'),
  currency: z.string().describe('ISO 4217'),
  dailyCap: z.number().nullable(),
  points: z.object({ opened: z.number(), clicked: z.number(), events: z.record(z.string(), z.number()) }),
  siteHosts: z.array(z.string()),
  style: z.record(z.string(), z.unknown()),
  attributes: z.array(
    z.object({
      key: z.string(),
      label: z.string(),
      type: z.enum(['text', 'number', 'date', 'yes-no', 'list']),
      options: z.array(z.string()),
    }),
  ),
  lists: z.array(named.extend({ publicName: z.string(), told: z.string() })),
  segments: z.array(named.extend({ folder: z.string(), rule: z.record(z.string(), z.unknown()) })),
  eventKinds: z.array(
    z.object({
      name: z.string(),
      label: z.string(),
      fields: z.array(z.object({ name: z.string(), type: z.string() })),
      sample: z.record(z.string(), z.unknown()),
    }),
  ),
  senders: z.array(named.extend({ email: z.string(), fields: z.record(z.string(), z.string()) })),
  forms: z.array(z.object({ id: z.string(), status: z.string(), form: z.record(z.string(), z.unknown()) })),
  offers: z.array(z.object({ id: z.string(), offer: z.record(z.string(), z.unknown()) })),
  shared: z.array(named.extend({ blocks: z.array(z.unknown()) })),
  templates: z.array(named.extend({ about: z.string(), email: z.record(z.string(), z.unknown()) })),
  labels: z.array(named.extend({ things: z.array(z.object({ kind: z.enum(labelledKinds), id: z.string() })) })),
  sequences: z.array(
    named.extend({
      status: z.enum(['draft', 'live', 'paused', 'archived']),
      liveVersion: z.number().nullable(),
      pausedAt: date,
      file: z.string().describe('Its file in the archive'),
    }),
  ),
  files: z.array(
    named.extend({ mime: z.string(), size: z.number().describe('Bytes'), alt: z.string(), file: z.string() }),
  ),
});
export type WorkspaceFile = z.infer<typeof workspaceFileSchema>;

/** The JSON Schema (draft 2020-12) of that file, as it lies in the archive beside it. */
export const workspaceFileJsonSchema = (): object => z.toJSONSchema(workspaceFileSchema);
