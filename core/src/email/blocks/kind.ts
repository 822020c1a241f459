import type { MjmlNode } from '@ascenso/mjml-slim';
import { z } from 'zod';
import type { Condition } from '../../audience/index.ts';
import { hexOf, lookSchema, type Look, type LookName } from '../look.ts';
import type { Masks } from '../masks.ts';
import type { RichText } from '../rich.ts';
import type { HouseStyle } from '../style.ts';
import { whenSchema } from '../when.ts';

/** Any block, as far as the kinds know of each other: which kinds there are is known to the index alone. */
export interface AnyBlock {
  kind: string;
  id: string;
}

/** What every block has beside its own fields. Absent is the standard. */
export const blockBase = {
  id: z.string().min(1).max(60),
  /** Own name in the outline. */
  name: z.string().max(80).optional(),
  /** Switched off: kept, not sent. */
  off: z.literal(true).optional(),
  only: z.enum(['phone', 'desktop']).optional(),
  /** Fields of it that are kept and not shown, of those that its kind lets be switched off. */
  hidden: z.array(z.string().max(20)).min(1).max(6).optional(),
  when: whenSchema.optional(),
  look: lookSchema.optional(),
};
/** Fields of a block that are taken away by setting them to null. */
export const optionalFields: ReadonlySet<string> = new Set(['name', 'off', 'only', 'hidden', 'when', 'look', 'sender']);

/** A template, an address or a picture of a block, with the words that name its place in the inspector. */
export interface BlockParts {
  templates: { place: string; source: string }[];
  rich: { place: string; doc: RichText }[];
  links: { place: string; address: string; label: string }[];
  pictures: { file: string; address: string; alt: string; width: number }[];
  /** Parts of the sender's profile that it draws: "photo". What the profile has not is left out. */
  profile: { place: string; name: string }[];
  /** Raw HTML, for checks that read markup. */
  html: string[];
  /** Words that are no templates: they leave as they are written. */
  still: { place: string; text: string }[];
}
export const parts = (some: Partial<BlockParts> = {}): BlockParts => ({
  templates: [],
  rich: [],
  links: [],
  pictures: [],
  profile: [],
  html: [],
  still: [],
  ...some,
});

/** Contents of one column of the layout, or whole sections of it. */
export interface Compiled {
  nodes: MjmlNode[];
  sections?: MjmlNode[];
  plain: string;
}

/** Where blocks are laid out: what they draw on, and how much room there is. Sizes are px. */
export interface Canvas {
  masks: Masks;
  style: HouseStyle;
  /** False for a letter, which has no buttons and no sheet. */
  dress: boolean;
  /** Service mail: nobody can stop it. */
  service: boolean;
  /** Room inside, and what is kept free at its left and right. */
  width: number;
  side: number;
  /** Blocks of the shared ones, by id. */
  shared: Readonly<Record<string, readonly AnyBlock[]>>;
  /** Lays out blocks under each other in a column. */
  column(blocks: readonly AnyBlock[], canvas: Canvas): Compiled;
  /** Lays out blocks as sections. */
  stack(blocks: readonly AnyBlock[], canvas: Canvas): Compiled & { sections: MjmlNode[] };
}

/** Colours of the words of a block, on the ground they stand on, as hex. */
export interface Colours {
  words: string;
  on: string;
  /** Large type needs less contrast: WCAG 2.2, 1.4.3. */
  large: boolean;
}

/** A block with nothing in it, said to its author: "A heading" in some email "is empty". */
export interface Emptiness {
  what: string;
  is: string;
  /** Where it would be written, in the words of the inspector; null for the block as a whole. */
  part: string | null;
  fix: string;
  /** Whether it must not leave like that. */
  level: 'error' | 'warning';
}
export const emptiness = (what: string, part: string | null, more: Partial<Emptiness> = {}): Emptiness => ({
  what,
  is: 'is empty',
  part,
  fix: 'Write something, or delete the block.',
  level: 'warning',
  ...more,
});

/** Lists in which blocks can stand beside the email's own. */
export type Inner = 'section' | 'column';

/** A list of blocks inside a block. */
export interface InnerList {
  id: string;
  blocks: AnyBlock[];
  /** Who sees it; everyone where it is absent. */
  condition?: Condition;
}

/**
 * A kind of block: everything that others ask of it. To add one: a file like this one's neighbours and a line in
 * `leaves.ts`; the compiler then asks for its settings and its icon (`web/src/composer`).
 */
export interface BlockKind<K extends string, S extends z.ZodType<{ kind: K; id: string }>> {
  kind: K;
  name: string;
  /** What it is for, in a few words. */
  about: string;
  schema: S;
  /** Parts of the house style that one of them can do differently. */
  looks: readonly LookName[];
  /** Text fields that can be switched off, each with what it is called. */
  mayHide: Readonly<Record<string, string>>;
  /** A new block of this kind. `newId` makes ids for it and what is inside. */
  blank: (newId: () => string) => z.infer<S>;
  /** Layout and plain text. Links are numbered in the order in which both parts carry them. */
  compile: (block: z.infer<S>, canvas: Canvas) => Compiled;
  parts: (block: z.infer<S>) => BlockParts;
  /** Words for the outline. */
  title: (block: z.infer<S>) => string;
  /** Colours of its words on the ground of what it stands in; null for one without words in the email's own type. */
  colours: (block: z.infer<S>, ground: string, style: HouseStyle) => Colours | null;
  /** What it lacks where there is nothing in it; null for one that is whole, or that other checks look at. */
  empty: (block: z.infer<S>) => Emptiness | null;
  /** One with everything in it that it can hold, for tests that go through every kind. Its pictures are called "cover". */
  sample: (newId: () => string) => z.infer<S>;
  /** Where it can stand, beside the email's own list. */
  stands: readonly Inner[];
  /** Lists of blocks inside, and what they are to those. */
  holds?: Inner;
  inside?: (block: z.infer<S>) => InnerList[];
  /** The footer is neither moved nor deleted. */
  locked?: true;
}

/** What is so for most kinds. */
export const leaf = { colours: () => null, empty: () => null, mayHide: {}, stands: ['section', 'column'] } as const;

/** Running text on the ground that is there, or on its own. Large is 18 pt and more, bold 14 pt: WCAG 2.2, 1.4.3. */
export function textColours(
  look: Look | undefined,
  ground: string,
  style: HouseStyle,
  standard: { color?: string; size?: number; bold?: boolean } = {},
): Colours {
  return {
    words: look?.color ? hexOf(look.color, style) : (standard.color ?? style.text),
    on: look?.background ? hexOf(look.background, style) : ground,
    large: (look?.size ?? standard.size ?? style.size) >= (standard.bold ? 18.66 : 24),
  };
}

export const node = (tagName: string, attributes: Record<string, string>, content?: string): MjmlNode =>
  content === undefined ? { tagName, attributes } : { tagName, attributes, content };

export const tree = (tagName: string, attributes: Record<string, string>, children: MjmlNode[]): MjmlNode => ({
  tagName,
  attributes,
  children,
});

/** Mask of a moving part that stands between blocks. */
export const raw = (mask: string): MjmlNode => node('mj-raw', {}, mask);

/** Id of a hosted file, '' for none. It stands in addresses as it is, so nothing else may be in it. */
export const fileField = z.string().regex(/^[\w-]{0,60}$/, 'Choose a file of the library.');
export const addressField = z.string().max(2000);
export const lineField = z.string().max(500);

/** Space around a block, px: its own, or the standard of its kind. */
export function padding(look: Look | undefined, { side }: Canvas, above: number, below: number): string {
  return `${look?.above ?? above}px ${side}px ${look?.below ?? below}px`;
}

/** Attributes that every content component takes on from the look. */
export function ground(look: Look | undefined, { style }: Canvas): Record<string, string> {
  return look?.background ? { 'container-background-color': hexOf(look.background, style) } : {};
}

/** Characters of a title made from the words of a block. */
const TITLE = 40;

/** The first words of a block as its title: cut between two words, with a sign that more follows. */
export function firstWords(text: string): string {
  const whole = text.replace(/ (?=[,.!?])/g, '').trim();
  if (whole.length <= TITLE) return whole;
  // One character more tells whether a word ends just here.
  const cut = whole
    .slice(0, TITLE + 1)
    .replace(/\s\S*$/, '')
    .trimEnd()
    .slice(0, TITLE);
  return `${cut.replace(/[,;:.]{1,10}$/, '')} …`;
}

export const colorOf = (look: Look | undefined, standard: string, { style }: Canvas): string =>
  look?.color ? hexOf(look.color, style) : standard;

/** Attributes of running text. */
export function textAttributes(
  look: Look | undefined,
  canvas: Canvas,
  space: [number, number] = [8, 8],
): Record<string, string> {
  const { style } = canvas;
  return {
    'font-family': style.font,
    'font-size': `${look?.size ?? style.size}px`,
    'line-height': '1.55',
    color: colorOf(look, style.text, canvas),
    align: look?.align ?? 'left',
    padding: padding(look, canvas, ...space),
    ...ground(look, canvas),
  };
}

export { hexOf };

export const linkStyle = ({ style }: Canvas): string => `color:${style.link};text-decoration:underline`;
