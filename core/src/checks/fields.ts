import {
  contentOf,
  fieldsWithPlaces,
  itemsPath,
  PICKED,
  pickedFields,
  readTemplate,
  type Email,
} from '../email/index.ts';
import { OFFER_FIELDS } from '../offer/index.ts';
import { walk } from '../sequence/index.ts';
import { at, emailCheck, type Check, type CheckContext } from './check.ts';

/** Parts of merge fields that stand for something of ours. */
const OURS = ['links.unsubscribe', 'sequence.name', 'sequence.email', ...OFFER_FIELDS.map((f) => `offer.${f}`)];

function isKnown(path: string, block: string | null, email: Email, { fields, items }: CheckContext): boolean {
  const [group = '', ...rest] = path.split('.');
  if (OURS.includes(path)) return true;
  const name = rest.join('.');
  if (group === 'item') {
    const list = itemsPath(email, block);
    if (list === PICKED) return (pickedFields as readonly string[]).includes(name);
    return list !== null && (items[list] ?? []).includes(name);
  }
  return Object.hasOwn(fields, group) && fields[group as keyof typeof fields].includes(name);
}

export const unknownField = emailCheck('unknown-field', 'error', ({ email }, context) =>
  fieldsWithPlaces(email).flatMap(({ field, block, place }) => {
    if (isKnown(field.path, block, email, context)) return [];
    const none = field.path.startsWith('event.') && context.fields.event.length === 0;
    return [
      {
        block,
        part: place,
        message: none
          ? `“${field.path}” comes from an event, but what starts this sequence brings none.`
          : `There is no field “${field.path}”.`,
        fix: 'Pick a field that exists, or take it out.',
      },
    ];
  }),
);

/** The same of what is told to the team, which knows the person and the event only. */
export const unknownFieldInNote: Check = {
  id: 'unknown-field-in-note',
  run: (sequence, { fields }) =>
    walk(sequence).flatMap(({ step }) => {
      if (!step.on || step.kind !== 'action' || step.action.type !== 'tell-team') return [];
      const unknown = readTemplate(step.action.text).pieces.flatMap((p) => {
        if (typeof p === 'string' || p.path.startsWith('sequence.')) return [];
        const [group = '', ...rest] = p.path.split('.');
        const known = Object.hasOwn(fields, group) && fields[group as keyof typeof fields].includes(rest.join('.'));
        return known ? [] : [p.path];
      });
      return unknown.map((path) => ({
        check: 'unknown-field-in-note',
        level: 'error' as const,
        place: at(step.id, null, 'text'),
        message: `There is no field “${path}” to tell the team.`,
        fix: 'Pick a field that exists, or take it out.',
      }));
    }),
};

export const missingFallback = emailCheck('missing-fallback', 'warning', ({ email }, { always }) =>
  fieldsWithPlaces(email).flatMap(({ field, block, place, address }) => {
    if (field.fallback !== null || address || field.path === 'subscriber.email') return [];
    const fix = 'Click the chip and say what stands there instead.';
    if (field.path.startsWith('subscriber.'))
      return [
        {
          block,
          part: place,
          fix,
          message: `“${field.path}” has no fallback: whoever has no value gets a hole in the sentence.`,
        },
      ];
    // What only some of the triggers bring is missing for everybody whom the others bring.
    if (field.path.startsWith('event.') && !always.includes(field.path.slice(6)))
      return [
        {
          block,
          part: place,
          fix,
          level: 'error' as const,
          message: `“${field.path}” is brought by some of the triggers only, and has no fallback.`,
        },
      ];
    return [];
  }),
);

/** A part of the sender's profile that is used, and is empty for the very sender of this email. */
export const senderWithout = emailCheck('sender-without', 'warning', ({ email }, { senders }) => {
  const sender = email.sender ? senders.find((s) => s.id === email.sender) : senders.find((s) => s.isDefault);
  if (!sender) return [];
  const has = (name: string) => name === 'name' || name === 'email' || (sender.fields[name] ?? '') !== '';
  const used = fieldsWithPlaces(email).filter((f) => f.field.path.startsWith('sender.') && f.field.fallback === null);
  return [
    ...used.map((f) => ({ name: f.field.path.slice(7), block: f.block, place: f.place })),
    ...contentOf(email).profile,
  ]
    .filter((u) => !has(u.name))
    .map(({ name, block, place }) => ({
      block,
      part: place,
      message: `The sender of this email has no ${name}, which is used here.`,
      fix: 'Fill it in under Library, Senders, or take it out here.',
    }));
});
