import type { MjmlNode } from '@ascenso/mjml-slim';
import type { z } from 'zod';
import type { EmailLink, Masks } from '../masks.ts';
import type { RichText } from '../rich.ts';
import type { HouseStyle } from '../style.ts';

/** What checks look at in a block: every template, rich text and link, each with the words that name its place. */
export interface BlockParts {
  templates: { place: string; source: string }[];
  rich: { place: string; doc: RichText }[];
  links: EmailLink[];
}

export interface Compiled {
  /** Contents of one column of the layout. */
  nodes: MjmlNode[];
  plain: string;
}

/** A kind of block. To add one: a file like this one's neighbours, and a line in `index.ts`. */
export interface BlockKind<K extends string, S extends z.ZodType<{ kind: K; id: string }>> {
  kind: K;
  name: string;
  schema: S;
  /** A new block of this kind. */
  blank: (id: string) => z.infer<S>;
  /** Layout and plain text. Links are numbered in the order in which both parts carry them. */
  compile: (block: z.infer<S>, masks: Masks, style: HouseStyle) => Compiled;
  parts: (block: z.infer<S>) => BlockParts;
  /** Words for the outline. */
  title: (block: z.infer<S>) => string;
  /** The footer is neither moved nor deleted. */
  locked?: true;
}

export const noParts: BlockParts = { templates: [], rich: [], links: [] };

export const node = (tagName: string, attributes: Record<string, string>, content?: string): MjmlNode =>
  content === undefined ? { tagName, attributes } : { tagName, attributes, content };
