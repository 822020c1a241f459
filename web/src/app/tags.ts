import type { SurroundingPart } from '@ascenso/contracts';

/** Kinds of what the server is asked for: what changes one of them has the queries about it asked again. */
export const TAGS = [
  'me',
  'sequences',
  'draft',
  'review',
  'templates',
  'people',
  'around',
  'keys',
  'clock',
  'mail',
  'numbers',
  'labels',
] as const;

export type Tag = (typeof TAGS)[number] | { type: 'around'; id: SurroundingPart };

/** Parts of what drafts refer to; with each the names of all of it, since sentences say them. */
export const around = (...parts: SurroundingPart[]): Tag[] =>
  [...parts, 'named' as const].map((id) => ({ type: 'around', id }));

/** What can be deleted at an address of its own and brought back, and what has to be asked again then. */
export const DELETED = {
  sequences: ['sequences', ...around('sequences')],
  files: around('files'),
  shared: around('shared'),
  templates: ['templates'],
  attributes: ['people', ...around('attributes')],
  lists: ['people', ...around('lists')],
  tags: ['people', ...around('tags')],
  segments: around('segments'),
  labels: ['labels'],
} as const satisfies Record<string, readonly Tag[]>;

export type Deletable = keyof typeof DELETED;
