import { atomsOf, type Condition } from '../audience/index.ts';
import { conditionsOfEmail, contentOf, fieldsWithPlaces, walkBlocks, type Email } from '../email/index.ts';
import { instantOfWall, isUnique, plainCode, type Offer } from '../offer/index.ts';
import {
  beginning,
  reaches,
  walk,
  type EmailStep,
  type Reach,
  type Sequence,
  type Visited,
} from '../sequence/index.ts';
import { DAY, HOUR, nextInWindow, periodWords, roughLength, zoneOf, type SendWindow } from '../time/index.ts';
import { emailCheck, type CheckContext, type EmailFinding } from './check.ts';

export const offerOf = (email: Email, { offers }: CheckContext) => offers.find((o) => o.id === email.offer);

interface Use {
  block: string | null;
  part: string;
  what: 'code' | 'deadline' | 'other';
}

/** Where an email speaks of its offer: code blocks, timers that count to it, merge fields. */
function uses(email: Email): Use[] {
  const blocks = walkBlocks(email.blocks).flatMap(({ block }): Use[] => {
    if (block.off) return [];
    if (block.kind === 'code') return [{ block: block.id, part: 'code', what: 'code' }];
    return block.kind === 'timer' && block.to.kind === 'offer'
      ? [{ block: block.id, part: 'counts to', what: 'deadline' }]
      : [];
  });
  const own = new Set(blocks.map((b) => b.block));
  const fields = fieldsWithPlaces(email)
    .filter((f) => f.field.path.startsWith('offer.') && !own.has(f.block ?? ''))
    .map(({ field, block, place }): Use => {
      const what =
        field.path === 'offer.code' ? 'code' : /^offer\.(deadline|left)$/.test(field.path) ? 'deadline' : 'other';
      return { block, part: place, what };
    });
  return [...blocks, ...fields];
}

/** A code, a timer or a field of an offer that the email does not make, or that has no such thing. */
export const withoutOffer = emailCheck('without-offer', 'error', ({ id, email, name }, context) => {
  const offer = offerOf(email, context);
  const used = uses(email);
  if (email.offer && !offer)
    return [{ part: 'offer', message: `The offer of “${name}” is gone.`, fix: 'Choose another, or none.' }];
  if (!offer) {
    const [only] = context.offers.length === 1 ? context.offers : [];
    const repair = only && {
      repair: {
        label: `Make it “${only.name}”`,
        commands: [{ type: 'email.set' as const, step: id, field: 'offer' as const, value: only.id }],
      },
    };
    const what = {
      code: 'A code stands here',
      deadline: 'A deadline is counted to here',
      other: 'An offer is spoken of here',
    };
    return used.slice(0, 1).map(({ block, part, what: w }): EmailFinding => ({
      block,
      part,
      message: `${what[w]}, but “${name}” makes no offer.`,
      fix: 'Choose its offer above the subject.',
      ...repair,
    }));
  }
  return used.flatMap(({ block, part, what }): EmailFinding[] => {
    if (what === 'code' && offer.offer.codes.kind === 'none')
      return [
        {
          block,
          part,
          message: `“${offer.name}” has no code that could stand here.`,
          fix: 'Take it out, or give the offer codes.',
        },
      ];
    if (what === 'deadline' && offer.offer.deadline.kind === 'never')
      return [
        {
          block,
          part,
          message: `“${offer.name}” never closes: there is nothing to count to.`,
          fix: 'Take it out, or give the offer a deadline.',
        },
      ];
    return [];
  });
});

/** How long a window can hold an email back, ms. */
function longestHold(window: SendWindow | null): number {
  if (!window || window.days.length === 0) return 0;
  const zone = zoneOf('UTC');
  return Math.max(...Array.from({ length: 168 }, (_, h) => nextInWindow(zone, window, h * HOUR) - h * HOUR));
}

/** Whether everybody who comes to a step has come by another one. */
export function surelyBefore(other: Visited, step: Visited): boolean {
  for (let at: Visited | undefined = step; at; at = at.parent ?? undefined)
    if (other.siblings === at.siblings) return other.place.index < at.place.index;
  return false;
}

export interface Span {
  /** Time from the opening of the offer to an email, ms: the shortest for anybody, and the longest. */
  from: number;
  to: number;
  /** Length of the offer, ms. */
  length: number;
  words: string;
}

/** How an email lies to the deadline of its offer, as far as the plan alone can tell; null where it cannot. */
export function spanOf(
  step: EmailStep,
  offer: Offer,
  sequence: Sequence,
  reach: ReadonlyMap<string, Reach | null>,
  now: number | undefined,
): Span | null {
  const own = reach.get(step.id);
  if (!own) return null;
  const to = own.to + longestHold(step.window);
  const { deadline } = offer;
  if (deadline.kind === 'fixed') {
    if (now === undefined) return null;
    const { first, last } = beginning(sequence, now);
    return {
      from: own.from + first - now,
      to: to + last - now,
      length: instantOfWall(deadline.wall, zoneOf(deadline.zone)) - now,
      words: 'on a fixed day',
    };
  }
  if (deadline.kind !== 'after' || deadline.from === 'event') return null;
  // Until an hour of the last day it can be most of a day longer than the days alone.
  const length = roughLength(deadline.amount, deadline.unit) + (deadline.minute === null ? 0 : DAY);
  const words = `${periodWords(deadline.amount, deadline.unit)} after it is given`;
  if (deadline.from === 'entry')
    return { from: own.from, to, length, words: `${periodWords(deadline.amount, deadline.unit)} after joining` };
  const all = walk(sequence);
  const here = all.find((v) => v.step.id === step.id);
  const openers = all.filter(
    (v) =>
      v.step.kind === 'email' &&
      v.step.on &&
      v.step.forWhom === null &&
      v.step.id !== step.id &&
      v.step.email.offer === step.email.offer &&
      here &&
      surelyBefore(v, here),
  );
  const known = openers.flatMap((v) => reach.get(v.step.id) ?? []);
  // The first email that makes it is the one that opens it: it cannot be late.
  if (known.length === 0) return null;
  return {
    from: own.from - Math.max(...known.map((r) => r.to)),
    to: to - Math.min(...known.map((r) => r.from)),
    length,
    words,
  };
}

const code = (email: Email) => uses(email).find((u) => u.what === 'code');

/** An email that comes when its offer has closed for everybody, or may have for some. */
export const closesBefore = emailCheck('closes-before', 'error', (step, context, sequence) => {
  const offer = offerOf(step.email, context);
  const span = offer && spanOf(step, offer.offer, sequence, reaches(sequence), context.now);
  if (!offer || !span) return [];
  if (span.from >= span.length)
    return [
      {
        part: 'offer',
        message: `“${offer.name}” closes ${span.words}: before “${step.name}” can go out to anybody.`,
        fix: 'Let it close later, or send the email sooner.',
      },
    ];
  if (span.to <= span.length) return [];
  const where = code(step.email);
  return [
    {
      level: 'warning',
      block: where?.block ?? null,
      part: where?.part ?? 'offer',
      message: `“${step.name}” can come after “${offer.name}” has closed, ${span.words}: those people do not get it.`,
      fix: 'Let it close later, or send the email sooner or at more hours.',
    },
  ];
});

/** Somebody reads two codes, or is asked about one offer and given another. */
export const twoOffers = emailCheck('two-offers', 'warning', ({ email, forWhom }, { offers, shared }) => {
  const others = offers.filter((o) => o.id !== email.offer);
  const { templates, texts } = contentOf(email);
  const named = [...templates, ...texts.map((t) => ({ ...t, source: t.text }))].flatMap(({ block, place, source }) => {
    const words = new Set((source.match(/[\p{L}\p{N}._-]{3,}/gu) ?? []).map(plainCode));
    const other = others.find((o) =>
      [o.offer.codes, o.offer.empty].some((c) => c.kind === 'shared' && words.has(plainCode(c.code))),
    );
    return other
      ? [
          {
            block,
            part: place,
            message: `The code of “${other.name}” stands here${email.offer ? ', and this email makes another offer' : ' as plain words'}.`,
            fix: 'Make it the offer of this email, and let its code block say the code.',
          },
        ]
      : [];
  });
  const asked = (conditions: Condition[]) =>
    conditions.flatMap(atomsOf).find((a) => a.kind === 'offer' && a.offer !== email.offer && a.state !== 'used');
  const atom = email.offer ? asked([...(forWhom ? [forWhom] : []), ...conditionsOfEmail(email, shared)]) : undefined;
  const about = atom?.kind === 'offer' ? offers.find((o) => o.id === atom.offer) : undefined;
  return [
    ...named,
    ...(about
      ? [
          {
            part: 'offer',
            message: `Who sees a part of this email is asked of “${about.name}”, and the email makes another offer.`,
            fix: 'Ask of the offer that it makes.',
          },
        ]
      : []),
  ];
});

/** Imported codes that will not do for the people who are on their way to them. */
export const codesShort = emailCheck('codes-short', 'warning', ({ email }, context) => {
  const offer = offerOf(email, context);
  if (!offer || !isUnique(offer.offer) || offer.left === null || offer.left >= offer.waiting) return [];
  const what = {
    hold: 'The email will wait for new ones.',
    shared: 'The rest get the one code for all.',
    without: 'The rest get none.',
  }[offer.offer.empty.kind];
  return [
    {
      part: 'offer',
      message: `“${offer.name}” has ${periodWords(offer.left, 'codes')} left, and ${periodWords(offer.waiting, 'people')} on the way to one. ${what}`,
      fix: 'Add codes to the offer.',
    },
  ];
});
