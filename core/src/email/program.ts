import type { Condition } from '../audience/index.ts';
import { readPath } from '../audience/index.ts';
import { fieldInAddress, fieldText, readTemplate, type Field, type MergeContext } from './fields.ts';
import { escapeHtml, type EmailLink, type RepeatPlan, type TimerPlan } from './masks.ts';
import { targetOfTimer } from './timers.ts';
import type { Campaign } from './style.ts';

/** Where in the output a moving node stands: decides how its text is escaped. */
export type Context = 'text' | 'attribute' | 'plain';

/** A moving node that is written: `f` and `l` count into `fields` and `links`, those of repeat `r` where it is given. */
export type Written =
  | { f: number; in: Context; r?: number }
  | { l: number; in: Context; r?: number }
  /** Address of the picture of a countdown. */
  | { t: number }
  | { s: 'base' | 'unsubscribe' | 'open' };

/** A still run of text, a moving node, or one that holds others. */
export type Piece =
  | string
  | Written
  /** The first version of a chain whose condition holds. */
  | { chain: number; arms: Piece[][] }
  /** There only where the field has a value. */
  | { given: number; r?: number; pieces: Piece[] }
  /** There only where the link leads somewhere. */
  | { led: number; r?: number; pieces: Piece[] }
  /** A row for every few items of a list, or what stands there for an empty one. */
  | { each: number; row: Piece[]; none: Piece[] }
  /** The n-th item of the row, nothing where the list has ended. */
  | { cell: number; pieces: Piece[] };

/** An email compiled once per version: still runs and moving nodes. Plain data. */
export interface Program {
  subject: Piece[];
  preview: Piece[];
  /** Empty for an email that goes out as text only. */
  html: Piece[];
  text: Piece[];
  fields: Field[];
  links: EmailLink[];
  /** Absent in programs from before there were any; so are the next two. */
  chains?: (Condition | null)[][];
  repeats?: RepeatPlan[];
  campaign?: Campaign;
  timers?: TimerPlan[];
  /** Id of the offer that it makes. */
  offer?: string;
  /** The reader's name in the To line, and where answers go, if not to the sender. */
  toName?: Piece[];
  replyTo?: string;
  /** Its links lead straight to where they lead, and no click is counted. Hosted files come from us all the same. */
  direct?: true;
  /** Ids of the hosted files that go along. */
  attachments?: string[];
  /** Size of the HTML in UTF-8 bytes with nothing filled in. */
  bytes: number;
}

/** What one item of a list was filled with. */
export interface ItemValues {
  fields: string[];
  targets: string[];
}

/** What one send's moving nodes were filled with; kept with the send, so that it can be shown as it was sent. */
export interface Values extends ItemValues {
  /** The version of each chain that was shown, -1 for none. */
  picks?: number[];
  /** The items of each repeat. */
  items?: ItemValues[][];
  /** The moment that each countdown counts to (epoch ms, null for none), and the language of its reader. */
  timers?: { at: number | null; language: string }[];
}

/** The addresses that a filled email carries. */
export interface Addresses {
  base: string;
  unsubscribe: string;
  open: string;
  /** `ref` names the link within the email: its number, or "repeat.item.number" for one in a list. */
  link: (ref: string, target: string) => string;
  /** Of the picture of the n-th countdown. */
  timer: (n: number) => string;
}

const SAFE_SCHEME = /^(https?:\/\/|mailto:|tel:|file:)/i;
/** A hosted file is named by its id: nothing else behind our own scheme leads anywhere. */
const HOSTED = /^file:[\w-]{1,60}$/;
/** Longer addresses are cut off by mail programs and servers (RFC 9110, 4.1 asks for 8,000 octets; many take 2,000). */
const LONGEST = 2_000;

/** An address that leads out: our own (a hosted file) carries no campaign. */
const OUTWARD = /^https?:\/\//i;

/** Adds campaign parameters to an address; a parameter that the address has already stays as it is. */
function withCampaign(target: string, campaign: Campaign | undefined, context: MergeContext): string {
  if (!campaign || !OUTWARD.test(target)) return target;
  const [, base = '', query = '', hash = ''] = /^([^?#]*)(\?[^#]*)?(#.*)?$/.exec(target) ?? [];
  const added = (['source', 'medium', 'campaign', 'content'] as const).flatMap((name) => {
    const value = campaign[name] && fillTemplate(campaign[name], context).trim();
    if (!value || new RegExp(`[?&]utm_${name}=`, 'i').test(query)) return [];
    return [`utm_${name}=${encodeURIComponent(value)}`];
  });
  if (added.length === 0) return target;
  const joint = query === '' ? '?' : query === '?' ? '' : '&';
  return `${base}${query}${joint}${added.join('&')}${hash}`;
}

const fillTemplate = (template: string, context: MergeContext): string =>
  readTemplate(template)
    .pieces.map((p) => (typeof p === 'string' ? p : fieldText(p, context)))
    .join('');

/**
 * The target of a link for one person. A field inside an address is percent-encoded; an address that begins with a
 * field takes that one as it is. Anything but http(s), mailto, tel or a hosted file gives '' (no target).
 */
export function linkTarget(address: string, context: MergeContext, campaign?: Campaign): string {
  const target = readTemplate(address)
    .pieces.map((p, i) =>
      typeof p === 'string' ? p : i === 0 ? fieldInAddress(p, context) : encodeURIComponent(fieldInAddress(p, context)),
    )
    .join('')
    .trim();
  if (!SAFE_SCHEME.test(target) || target.length > LONGEST) return '';
  if (/^file:/i.test(target) && !HOSTED.test(target)) return '';
  const whole = withCampaign(target, campaign, context);
  return whole.replace(/[\s"<>\\^`{|}\u0000-\u001f]/g, (c) => encodeURIComponent(c));
}

function fillItem(
  { fields, links }: { fields: readonly Field[]; links: readonly EmailLink[] },
  context: MergeContext,
  campaign: Campaign | undefined,
): ItemValues {
  return {
    fields: fields.map((f) => fieldText(f, context)),
    targets: links.map((l) => linkTarget(l.address, context, l.picture ? undefined : campaign)),
  };
}

const compareBy = (field: string) => (a: object, b: object) => {
  const [x, y] = [readPath(a, field), readPath(b, field)];
  if (typeof x === 'number' && typeof y === 'number') return x - y;
  return String(x ?? '') < String(y ?? '') ? -1 : String(x ?? '') > String(y ?? '') ? 1 : 0;
};

/** The event whose latest payloads a repeat goes through, or null for a list of another kind. Names of events have dots in them. */
export const recentEvent = (list: string): string | null => (list.startsWith('recent.') ? list.slice(7) : null);

/** Payloads of events, newest first, each of them once: what `MergeContext.recent` holds. */
export function recentOf(
  events: readonly { name: string; at: number; payload: object }[],
  names: readonly string[],
): Record<string, object[]> {
  const newest = [...events].sort((a, b) => b.at - a.at);
  const distinct = (name: string) => {
    const seen = new Map(newest.filter((e) => e.name === name).map((e) => [JSON.stringify(e.payload), e.payload]));
    return [...seen.values()];
  };
  return Object.fromEntries(names.map((name) => [name, distinct(name)]));
}

/** The items that a repeat shows: those of the list, sorted where it says so, as many as it allows. */
export function itemsOf(
  plan: Pick<RepeatPlan, 'list' | 'limit' | 'sort' | 'items'>,
  context: MergeContext,
): Record<string, unknown>[] {
  const recent = recentEvent(plan.list);
  const list: unknown = plan.items ?? (recent === null ? readPath(context, plan.list) : context.recent?.[recent]);
  if (!Array.isArray(list)) return [];
  // A list of plain words, as a person has them, is one of items with a value.
  const items = list.flatMap((i: unknown): Record<string, unknown>[] => {
    if (typeof i === 'string' || typeof i === 'number') return [{ value: i }];
    return typeof i === 'object' && i !== null && !Array.isArray(i) ? [i as Record<string, unknown>] : [];
  });
  if (plan.sort) {
    const by = compareBy(plan.sort.field);
    items.sort((a, b) => (plan.sort?.down ? by(b, a) : by(a, b)));
  }
  return items.slice(0, plan.limit);
}

/** Fills the moving nodes of a program for one person. */
export function valuesFor(program: Program, plain: MergeContext): Values {
  const { chains = [], repeats = [], timers = [], campaign } = program;
  const holds = plain.holds ?? (() => false);
  const moments = timers.map((plan) => targetOfTimer(plan, plain));
  const context: MergeContext =
    timers.length > 0
      ? { ...plain, timers: moments.map((at) => (at === null ? '' : new Date(at).toISOString())) }
      : plain;
  return {
    ...fillItem(program, context, campaign),
    ...(timers.length > 0 ? { timers: moments.map((at) => ({ at, language: context.locale?.language ?? '' })) } : {}),
    ...(chains.length > 0 ? { picks: chains.map((c) => c.findIndex((arm) => arm === null || holds(arm))) } : {}),
    ...(repeats.length > 0
      ? {
          items: repeats.map((plan) =>
            itemsOf(plan, context).map((item) => fillItem(plan, { ...context, item }, campaign)),
          ),
        }
      : {}),
  };
}

/** The item of a list that is being written. */
export interface ItemAt {
  repeat: number;
  item: number;
}

/** Walks pieces for one reader, telling each still run and each written node in turn. */
export function walkPieces(
  pieces: readonly Piece[],
  program: Pick<Program, 'repeats'>,
  values: Values,
  tell: (piece: string | Written, at: ItemAt | null) => void,
  at: ItemAt | null = null,
): void {
  for (const piece of pieces) {
    if (typeof piece === 'string' || 's' in piece || 'f' in piece || 'l' in piece || 't' in piece) tell(piece, at);
    else if ('chain' in piece)
      walkPieces(piece.arms[values.picks?.[piece.chain] ?? -1] ?? [], program, values, tell, at);
    else if ('given' in piece) {
      if (valueAt(values, piece.r, at).fields[piece.given]) walkPieces(piece.pieces, program, values, tell, at);
    } else if ('led' in piece) {
      if (valueAt(values, piece.r, at).targets[piece.led]) walkPieces(piece.pieces, program, values, tell, at);
    } else if ('cell' in piece) {
      const item = (at?.item ?? 0) + piece.cell;
      if (at && item < (values.items?.[at.repeat]?.length ?? 0))
        walkPieces(piece.pieces, program, values, tell, { ...at, item });
    } else {
      const count = values.items?.[piece.each]?.length ?? 0;
      const across = program.repeats?.[piece.each]?.across ?? 1;
      if (count === 0) walkPieces(piece.none, program, values, tell, at);
      for (let item = 0; item < count; item += across)
        walkPieces(piece.row, program, values, tell, { repeat: piece.each, item });
    }
  }
}

const nothing: ItemValues = { fields: [], targets: [] };
const valueAt = (values: Values, repeat: number | undefined, at: ItemAt | null): ItemValues =>
  repeat === undefined ? values : ((at && values.items?.[repeat]?.[at.item]) ?? nothing);

/** The written text of one moving node. */
export function writtenText(
  piece: Written,
  program: Filling,
  values: Values,
  addresses: Addresses,
  at: ItemAt | null,
): string {
  if ('s' in piece) return addresses[piece.s];
  if ('t' in piece) return escapeHtml(addresses.timer(piece.t));
  const own = valueAt(values, piece.r, at);
  let text: string;
  if ('f' in piece) text = own.fields[piece.f] ?? '';
  else {
    const target = own.targets[piece.l] ?? '';
    const link = (piece.r === undefined ? program : program.repeats?.[piece.r])?.links[piece.l];
    const ref = piece.r === undefined ? String(piece.l) : `${piece.r}.${at?.item ?? 0}.${piece.l}`;
    const straight = link?.picture ?? (program.direct && OUTWARD.test(target));
    text = straight ? target : addresses.link(ref, target);
  }
  return piece.in === 'plain' ? text : escapeHtml(text);
}

type Filling = Pick<Program, 'links' | 'repeats' | 'direct'>;

/** Labels of links that this reader would see, and that lead nowhere: an email with one is not to be sent. */
export function linksToNowhere(
  program: Pick<Program, 'html' | 'text' | 'repeats' | 'links'>,
  values: Values,
): string[] {
  const all = [values, ...(values.items ?? []).flat()];
  if (all.every(({ targets }) => targets.every(Boolean))) return [];
  const found = new Set<string>();
  const tell = (piece: string | Written, at: ItemAt | null) => {
    if (typeof piece === 'string' || !('l' in piece) || valueAt(values, piece.r, at).targets[piece.l]) return;
    const link = (piece.r === undefined ? program : program.repeats?.[piece.r])?.links[piece.l];
    if (link && !link.picture) found.add(link.label);
  };
  for (const pieces of [program.html, program.text]) walkPieces(pieces, program, values, tell);
  return [...found];
}

/** Walks pieces to text. */
export function fillPieces(pieces: readonly Piece[], program: Filling, values: Values, addresses: Addresses): string {
  let out = '';
  walkPieces(pieces, program, values, (piece, at) => {
    out += typeof piece === 'string' ? piece : writtenText(piece, program, values, addresses, at);
  });
  return out;
}

export interface FilledEmail {
  subject: string;
  preview: string;
  html: string;
  text: string;
}

/** A program filled with one person's values, as text: for a preview, and to show an email as it was sent. */
export function fillProgram(program: Program, values: Values, addresses: Addresses): FilledEmail {
  const fill = (pieces: readonly Piece[]) => fillPieces(pieces, program, values, addresses);
  const oneLine = (s: string) => s.replace(/\s+/g, ' ').trim();
  return {
    subject: oneLine(fill(program.subject)),
    preview: oneLine(fill(program.preview)),
    html: fill(program.html),
    text: fill(program.text),
  };
}

/** One link of an email: its number, and of one in a list the numbers of the repeat and of the item. */
export interface LinkRef {
  number: number;
  repeat: number | null;
  item: number | null;
}

/** Reads the name of a link as `Addresses.link` writes it, "3" or "repeat.item.number"; null where it is none. */
export function readLinkRef(ref: string): LinkRef | null {
  // Six digits at most: no email has more links, and each number fits the column that keeps it.
  if (!/^\d{1,6}(\.\d{1,6}\.\d{1,6})?$/.test(ref)) return null;
  const parts = ref.split('.').map(Number);
  const [repeat = null, item = null, number = 0] = parts.length === 3 ? parts : [null, null, parts[0]];
  return { number, repeat, item };
}

/** The target of a link of the email, and the link itself. Undefined where there is none. */
export function targetOfLink(
  program: Filling,
  values: Values,
  { number, repeat, item }: LinkRef,
): { link: EmailLink; target: string } | undefined {
  const from = repeat === null ? program : program.repeats?.[repeat];
  const own = repeat === null ? values : values.items?.[repeat]?.[item ?? -1];
  const link = from?.links[number];
  const target = own?.targets[number];
  return link && target !== undefined ? { link, target } : undefined;
}
