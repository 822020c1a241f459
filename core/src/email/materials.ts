import type { Block } from './blocks/index.ts';
import { signOf } from './compile.ts';
import { inOrder } from './in-order.ts';
import type { Email } from './schema.ts';
import { plainStyle, type HouseStyle } from './style.ts';
import { walkBlocks } from './tree.ts';

/** A sender as an email is compiled with it. */
export interface UsedSender {
  name: string;
  email: string;
  fields: Readonly<Record<string, string>>;
}

/** What emails draw on beside their own words. */
export interface Supplies {
  style: HouseStyle;
  shared: readonly { id: string; name: string; blocks: readonly Block[] }[];
  senders: readonly (UsedSender & { id: string; isDefault: boolean })[];
}

/** What a version was compiled with, so that it can be told when that has changed. */
export interface Materials {
  /** As it was kept: what it did not say was as plain as can be. */
  style: Partial<HouseStyle>;
  /** Signs of the shared blocks that its emails hold, by id. */
  shared: Readonly<Record<string, string>>;
  /** By the id that its emails name; '' for the default one. */
  senders: Readonly<Record<string, UsedSender>>;
}

/** One thing of the house that has changed since. */
export interface Behind {
  what: 'style' | 'shared' | 'sender';
  /** Id of the shared block or sender, '' for the house style. */
  id: string;
  name: string;
  /** What of it, where that is known: "colour of links". */
  parts: string[];
}

export const sharedSign = (blocks: readonly Block[]): string => signOf(JSON.stringify(blocks));

const senderOf = (id: string, { senders }: Supplies) =>
  senders.find((s) => s.id === id) ?? senders.find((s) => s.isDefault);

/** Ids of the shared blocks that emails hold. */
export const sharedIn = (emails: readonly Email[]): Set<string> =>
  new Set(
    emails.flatMap((e) => walkBlocks(e.blocks).flatMap(({ block }) => (block.kind === 'shared' ? [block.shared] : []))),
  );

/** What emails draw on as it is now: what a version keeps of it. */
export function materialsOf(emails: readonly Email[], supplies: Supplies): Materials {
  const held = sharedIn(emails);
  const senders = [...new Set(emails.map((e) => e.sender))].flatMap((id) => {
    const found = senderOf(id, supplies);
    return found ? [[id, { name: found.name, email: found.email, fields: found.fields }] as const] : [];
  });
  return {
    style: supplies.style,
    shared: Object.fromEntries(supplies.shared.filter((s) => held.has(s.id)).map((s) => [s.id, sharedSign(s.blocks)])),
    senders: Object.fromEntries(senders),
  };
}

const STYLE_WORDS: Readonly<Record<keyof HouseStyle, string>> = {
  brand: 'name of the house',
  language: 'language',
  logo: 'logo',
  font: 'font',
  headingFont: 'font of headings',
  size: 'size of text',
  titleSize: 'size of titles',
  headingSize: 'size of headings',
  width: 'width',
  page: 'colour of the page',
  sheet: 'colour of the sheet',
  text: 'colour of text',
  soft: 'colour of soft text',
  accent: 'colour of headings and buttons',
  onAccent: 'colour of words on buttons',
  link: 'colour of links',
  line: 'colour of lines',
  radius: 'corners of buttons',
  social: 'places to be found',
  campaign: 'campaign parameters',
  faces: 'timer faces',
  postalAddress: 'postal address',
};

const same = (a: unknown, b: unknown) => JSON.stringify(inOrder(a)) === JSON.stringify(inOrder(b));

function senderParts(was: UsedSender, is: UsedSender): string[] {
  const fields = [...new Set([...Object.keys(was.fields), ...Object.keys(is.fields)])];
  return [
    ...(was.name === is.name ? [] : ['name']),
    ...(was.email === is.email ? [] : ['address']),
    ...fields.filter((f) => (was.fields[f] ?? '') !== (is.fields[f] ?? '')).map((f) => f.replaceAll('_', ' ')),
  ];
}

/** What has changed since something was compiled with `was`. Nothing where it would come out the same. */
export function behindOf(was: Materials, supplies: Supplies): Behind[] {
  const out: Behind[] = [];
  const style = { ...plainStyle, ...was.style };
  const keys = (Object.keys(STYLE_WORDS) as (keyof HouseStyle)[]).filter((k) => !same(style[k], supplies.style[k]));
  if (keys.length > 0) out.push({ what: 'style', id: '', name: 'House style', parts: keys.map((k) => STYLE_WORDS[k]) });
  for (const [id, sign] of Object.entries(was.shared)) {
    const now = supplies.shared.find((s) => s.id === id);
    if (now && sharedSign(now.blocks) !== sign) out.push({ what: 'shared', id, name: now.name, parts: [] });
  }
  for (const [id, then] of Object.entries(was.senders)) {
    const now = senderOf(id, supplies);
    const parts = now ? senderParts(then, now) : [];
    if (now && parts.length > 0) out.push({ what: 'sender', id: now.id, name: now.name, parts });
  }
  return out;
}

/** "House style: colour of links, logo", "Shared block “Opening hours”", "Sender “Inês”: phone". */
export function behindWords({ what, name, parts }: Behind): string {
  const thing = what === 'style' ? name : `${what === 'shared' ? 'Shared block' : 'Sender'} “${name}”`;
  return parts.length > 0 ? `${thing}: ${parts.join(', ')}` : thing;
}
