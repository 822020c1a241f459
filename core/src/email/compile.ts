import { darkCss } from './dark.ts';
import { compileTree, type MjmlNode } from '@ascenso/mjml-slim';
import type { Canvas } from './blocks/index.ts';
import { canvasFor, page } from './layout.ts';
import { beginningOf } from './fields.ts';
import { guard, Masks, MASK } from './masks.ts';
import type { Program } from './program.ts';
import { splitAtMasks } from './split.ts';
import { partsOfRich, templateOfRich } from './rich.ts';
import { modeOf, unseenOf, type Email } from './schema.ts';
import { maskSource, sourceAsText } from './source.ts';
import type { HouseStyle } from './style.ts';
import { walkBlocks } from './tree.ts';

/** Length of the first text that stands in for a preview text nobody typed. */
const AUTO_PREVIEW = 140;

/** The preview text: as typed, or when none is, the first text of the email that everybody sees. */
export function previewTemplate(email: Email): string {
  if (email.preview.trim() !== '') return email.preview;
  if (modeOf(email) === 'html')
    return beginningOf(sourceAsText(email.html ?? '', () => '').replace(/\s+/g, ' '), AUTO_PREVIEW);
  for (const { block, parent } of walkBlocks(email.blocks)) {
    if (block.kind !== 'text' || block.off || block.when || parent?.when || parent?.off) continue;
    const text = templateOfRich(block.doc);
    if (text && partsOfRich(block.doc).only.length === 0) return beginningOf(text, AUTO_PREVIEW);
  }
  return '';
}

/** What an email is compiled with, beside the house style. */
export interface CompileOptions {
  /** Blocks of the shared ones, by id. */
  shared?: Canvas['shared'];
  /** Service mail: nobody can stop it, so its footer does not offer to. */
  service?: boolean;
  /** Marks each block's box with a class, for previews that lead back to the block. Never for a send. */
  mark?: boolean;
}

const MEDIA = [
  '@media (max-width:480px){.only-desktop,.only-desktop-outlook{display:none!important}td.only-phone{display:table-cell!important}div.only-phone{display:block!important}}',
  '.only-phone{display:none;mso-hide:all}',
].join('');

// A preheader of our own: the stock one goes out unescaped, white on white. The joiners keep body text out of it.
const preheader = (words: string) =>
  `<div style="display:none;max-height:0;max-width:0;overflow:hidden;mso-hide:all">${words}${'&#847;&zwnj;&nbsp;'.repeat(20)}</div>`;
const pixel = (email: Email, masks: Masks) =>
  unseenOf(email).openings
    ? ''
    : `<img src="${masks.mask({ kind: 'open' })}" width="1" height="1" alt="" style="display:block;border:0">`;

/** The email as the tree that the layout compiler takes, with every moving thing masked, and its plain text. */
export function layout(
  email: Email,
  masks: Masks,
  style: HouseStyle,
  options: CompileOptions,
): { tree: MjmlNode; plain: string } {
  const letter = modeOf(email) === 'letter';
  const canvas = canvasFor(masks, style, { ...options, letter });
  const { sections, plain } = page(email.blocks, canvas);
  const css = [MEDIA, ...(letter ? [] : [darkCss(canvas.style)])].join('');
  const meta =
    '<meta name="color-scheme" content="light dark"><meta name="supported-color-schemes" content="light dark">' +
    // Strict programs scale mail to their window and make links of dates and numbers, unless they are asked not to.
    '<meta name="x-apple-disable-message-reformatting"><meta name="format-detection" content="telephone=no,date=no,address=no,email=no,url=no">';
  const part = (tagName: string, content: string): MjmlNode => ({ tagName, attributes: {}, content });
  const tree: MjmlNode = {
    tagName: 'mjml',
    attributes: { lang: style.language },
    children: [
      {
        tagName: 'mj-head',
        attributes: {},
        // The title is read out by screen readers; it stands in attributes too, where only escaped text may go.
        children: [part('mj-title', masks.html(email.subject)), part('mj-raw', meta), part('mj-style', css)],
      },
      {
        tagName: 'mj-body',
        attributes: { width: `${style.width}px`, 'background-color': canvas.style.page, 'css-class': 'page' },
        children: [
          part('mj-raw', preheader(masks.html(previewTemplate(email)))),
          ...sections,
          part('mj-raw', pixel(email, masks)),
        ],
      },
    ],
  };
  return { tree, plain };
}

/** Takes out the white space between tags, which is 28% of the output and shows nowhere, and a height that is no number (HTML, 4.8.17). */
function squeeze(html: string): string {
  return html
    .replace(/ height="auto"/g, '')
    .replace(/\n\s+/g, '\n')
    .replace(/>\n+</g, '><')
    .trim();
}

/** A source of one's own, with the hidden preview text and the picture that counts openings put in. */
function dressSource(source: string, email: Email, masks: Masks): { html: string; plain: string } {
  const { html, plain } = maskSource(source, masks);
  const hidden = preheader(masks.html(previewTemplate(email)));
  const begun = /<body[^>]*>/i.test(html) ? html.replace(/<body[^>]*>/i, (tag) => tag + hidden) : hidden + html;
  const ended = /<\/body>/i.test(begun)
    ? begun.replace(/<\/body>/i, (tag) => pixel(email, masks) + tag)
    : begun + pixel(email, masks);
  return { html: ended, plain };
}

const ADDRESS_IN_TEXT = /https?:\/\/(?:\{\{[^}]*\}\}|[^\s<>()"'{}])+/g;

/** A plain text of one's own: fields filled in, addresses led through us. */
function maskText(words: string, masks: Masks): string {
  let out = '';
  let at = 0;
  for (const found of words.matchAll(ADDRESS_IN_TEXT)) {
    const address = found[0].replace(/[.,;:!?]{1,10}$/, '');
    out += masks.plain(words.slice(at, found.index)) + masks.link(address, address);
    at = found.index + address.length;
  }
  return out + masks.plain(words.slice(at));
}

/** A sign of a plain text, by which it is known again: FNV-1a, 32 bits (published by its authors as public domain). */
export function signOf(text: string): string {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return (hash >>> 0).toString(16);
}

const utf8 = new TextEncoder();

const templateOf = (plain: string, masks: Masks): string =>
  plain.replace(new RegExp(MASK.source, 'g'), (_, n: string) => {
    const node = masks.moving[Number(n)];
    if (node?.kind === 'field') return `{{ ${node.field.path} }}`;
    if (node?.kind === 'link')
      return (node.repeat === null ? masks.links : masks.repeats[node.repeat]?.links)?.[node.index]?.address ?? '';
    return node?.kind === 'unsubscribe' ? '{{ links.unsubscribe }}' : '';
  });

/** The house style as an email takes it on: with the language that the email says. */
const houseOf = (email: Email, style: HouseStyle): HouseStyle =>
  email.language ? { ...style, language: email.language } : style;

/** The automatic plain text as somebody would go on writing it: fields and addresses as they are written. */
export function automaticText(email: Email, style: HouseStyle, options: CompileOptions = {}): string {
  const masks = new Masks();
  const plain =
    modeOf(email) === 'html'
      ? maskSource(email.html ?? '', masks).plain
      : page(email.blocks, canvasFor(masks, houseOf(email, style), options)).plain;
  return templateOf(plain, masks).trim();
}

/**
 * Compiles an email to its program: blocks and house style to a tree, every moving thing masked by a plain word, laid
 * out, squeezed, split at the masks. Pure and the same in Node and in a web worker. Throws CompileError when a merge
 * field stands where no value may go.
 */
export async function compileEmail(email: Email, style: HouseStyle, options: CompileOptions = {}): Promise<Program> {
  const masks = new Masks();
  const mode = modeOf(email);
  let html = '';
  let plain: string;
  if (mode === 'html') ({ html, plain } = dressSource(email.html ?? '', email, masks));
  else {
    const made = layout(email, masks, houseOf(email, style), options);
    plain = made.plain;
    if (mode !== 'text') html = squeeze((await compileTree(made.tree)).html);
  }
  if (email.text) plain = maskText(guard(email.text.words), masks);
  const program: Program = { subject: [], preview: [], html: [], text: [], fields: [], links: [], bytes: 0 };
  const split = (text: string, kind: 'html' | 'plain') => splitAtMasks(text, masks, program.fields, kind);
  program.subject = split(masks.plain(email.subject), 'plain');
  program.preview = split(masks.plain(previewTemplate(email)), 'plain');
  if (email.toName) program.toName = split(masks.plain(email.toName), 'plain');
  if (email.replyTo) program.replyTo = email.replyTo;
  program.html = split(html, 'html');
  // An empty paragraph is a gap on a page; as text, one empty line parts as well as three.
  program.text = split(plain.replace(/\n(?:[ \t]*\n){2,}/g, '\n\n'), 'plain');
  const names = new RegExp(MASK.source, 'g');
  const named = <T extends { label: string }>(l: T): T => ({ ...l, label: l.label.replace(names, '…') });
  program.links = masks.links.map(named);
  if (masks.chains.length > 0) program.chains = masks.chains;
  if (masks.repeats.length > 0) program.repeats = masks.repeats.map((r) => ({ ...r, links: r.links.map(named) }));
  if (masks.timers.length > 0) program.timers = masks.timers;
  if (email.offer) program.offer = email.offer;
  const campaign = { ...style.campaign, ...email.campaign };
  if (Object.values(campaign).some((c) => c !== '')) program.campaign = campaign;
  if (unseenOf(email).clicks) program.direct = true;
  if (email.attachments) program.attachments = email.attachments;
  program.bytes = utf8.encode(html.replace(names, '')).length;
  return program;
}
