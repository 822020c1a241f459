import { blockParts, type Block, type BlockParts } from './blocks/index.ts';
import { readTemplate, type Field } from './fields.ts';
import { partsOfRich } from './rich.ts';
import { modeOf, type Email } from './schema.ts';
import { linksInSource, sourceAsText } from './source.ts';
import { walkBlocks } from './tree.ts';

/** A piece of an email that somebody wrote, with the block and the place in it; a null block is the envelope or the source. */
export interface Placed {
  block: string | null;
  place: string;
}

export interface Content {
  /** Everything written as a template, addresses apart. */
  templates: (Placed & { source: string })[];
  /** Addresses of links, those in running text too. */
  links: (Placed & { address: string; label: string })[];
  /** Chips in running text. */
  fields: (Placed & { field: Field })[];
  /** Running text as plain text. */
  texts: (Placed & { text: string })[];
  /** Words that leave as they are written: what looks like a field in them is none. */
  still: (Placed & { text: string })[];
  pictures: (BlockParts['pictures'][number] & Placed)[];
  /** Parts of the sender's profile that are drawn. */
  profile: (Placed & { name: string })[];
  /** Raw HTML. */
  html: (Placed & { source: string })[];
}

function ofBlock(block: Block): Content {
  const parts = blockParts(block);
  const here = (place: string): Placed => ({ block: block.id, place });
  const rich = parts.rich.map((r) => ({ place: r.place, ...partsOfRich(r.doc) }));
  return {
    templates: [
      ...parts.templates.map((t) => ({ ...here(t.place), source: t.source })),
      ...rich.flatMap((r) => r.only.map((o) => ({ ...here(r.place), source: o.otherwise }))),
      ...parts.html.map((source) => ({ ...here('source'), source })),
    ],
    links: [
      ...parts.links.map((l) => ({ ...here(l.place), address: l.address, label: l.label })),
      ...rich.flatMap((r) => r.links.map((l) => ({ ...here(r.place), ...l }))),
      ...parts.html.flatMap((source) => linksInSource(source).map((l) => ({ ...here('source'), ...l }))),
    ],
    fields: rich.flatMap((r) => r.fields.map((field) => ({ ...here(r.place), field }))),
    texts: [
      ...rich.map((r) => ({ ...here(r.place), text: r.text })),
      ...parts.html.map((source) => ({ ...here('source'), text: sourceAsText(source, () => '') })),
    ],
    still: [
      ...rich.map((r) => ({ ...here(r.place), text: r.text })),
      ...parts.still.map((w) => ({ ...here(w.place), text: w.text })),
    ],
    pictures: parts.pictures.map((p) => ({ ...here('picture'), ...p })),
    profile: parts.profile.map((p) => ({ ...here(p.place), name: p.name })),
    html: parts.html.map((source) => ({ ...here('source'), source })),
  };
}

let kept: WeakMap<Email, Content> | null = null;

/**
 * Does something that looks at the content of the same emails again and again, and changes none of them: each is read
 * once. Forty checks read it forty times otherwise, which was three quarters of their time.
 */
export function readingOnce<T>(look: () => T): T {
  const before = kept;
  kept ??= new WeakMap();
  try {
    return look();
  } finally {
    kept = before;
  }
}

/** All that an email says, with its places: what checks, counts and lists look at. Blocks that are switched off say nothing. */
export function contentOf(email: Email): Content {
  const known = kept?.get(email);
  if (known) return known;
  const content = read(email);
  kept?.set(email, content);
  return content;
}

function read(email: Email): Content {
  const envelope = (['subject', 'preview', 'toName'] as const).flatMap((place) =>
    email[place] ? [{ block: null, place, source: email[place] }] : [],
  );
  const byHand = email.text ? [{ block: null, place: 'plain text', source: email.text.words }] : [];
  const replyTo = email.replyTo ? [{ block: null, place: 'replyTo', text: email.replyTo }] : [];
  if (modeOf(email) === 'html') {
    const source = email.html ?? '';
    const here = { block: null, place: 'source' };
    return {
      templates: [...envelope, ...byHand, { ...here, source }],
      links: linksInSource(source).map((l) => ({ ...here, ...l })),
      fields: [],
      texts: [{ ...here, text: sourceAsText(source, () => '') }],
      still: replyTo,
      pictures: [],
      profile: [],
      html: [{ ...here, source }],
    };
  }
  const off = new Set<string>();
  const all = walkBlocks(email.blocks).flatMap(({ block, parent }) => {
    if (block.off || (parent && off.has(parent.id))) {
      off.add(block.id);
      return [];
    }
    return [ofBlock(block)];
  });
  const every = <K extends keyof Content>(key: K): Content[K] => all.flatMap((c) => c[key] as unknown[]) as Content[K];
  return {
    templates: [...envelope, ...byHand, ...every('templates')],
    links: every('links'),
    fields: every('fields'),
    texts: every('texts'),
    still: [...replyTo, ...every('still')],
    pictures: every('pictures'),
    profile: every('profile'),
    html: every('html'),
  };
}

/** Every merge field of an email with its place; `address` says that it stands in an address, `chip` in running text. */
export function fieldsWithPlaces(email: Email): (Placed & { field: Field; address: boolean; chip: boolean })[] {
  const { templates, links, fields } = contentOf(email);
  const written = [
    ...templates.map((t) => ({ ...t, address: t.place === 'picture address' })),
    ...links.map((l) => ({ block: l.block, place: l.place, source: l.address, address: true })),
  ].flatMap(({ block, place, source, address }) =>
    readTemplate(source).pieces.flatMap((p) =>
      typeof p === 'string' ? [] : [{ block, place, field: p, address, chip: false }],
    ),
  );
  return [...written, ...fields.map((f) => ({ ...f, address: false, chip: true }))];
}

/** Paths of all merge fields of an email: "subscriber.first_name". */
export const fieldsIn = (email: Email): string[] => [...new Set(fieldsWithPlaces(email).map((f) => f.field.path))];

/** Links that an author put into an email, one per address: what a condition can ask about. */
export function linksOf(email: Email): { address: string; label: string }[] {
  const { links } = contentOf(email);
  const all = links.filter((l) => l.address !== '' && !/^\s*\{\{\s*links\./.test(l.address));
  return all
    .filter((l, i) => all.findIndex((k) => k.address === l.address) === i)
    .map(({ address, label }) => ({ address, label }));
}

/** Path of the list whose items a block goes through, or null for a block that is no repeat. */
export function itemsPath(email: Email, block: string | null): string | null {
  const found = walkBlocks(email.blocks).find((p) => p.block.id === block)?.block;
  return found?.kind === 'repeat' ? found.list : null;
}
