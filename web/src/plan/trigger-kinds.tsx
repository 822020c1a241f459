import { X } from 'lucide-react';
import type { Trigger, TriggerOf } from '@ascenso/core';
import { PAGE_EVENT, type Surroundings } from '@ascenso/contracts';
import { attributeChoices } from '../conditions/index.ts';
import { blankTest } from '../conditions/field-tests.tsx';
import { IconButton } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';

import { TriggerParts, type PartsProps } from './trigger-parts.tsx';

interface Choice {
  value: string;
  label: string;
  blank: (around: Surroundings) => Trigger;
  is: (t: Trigger) => boolean;
}

const fixed = (value: string, label: string, blank: Trigger, is: (t: Trigger) => boolean): Choice => ({
  value,
  label,
  blank: () => blank,
  is,
});
const quiet = (what: TriggerOf<'quiet'>['what']): Trigger => ({ kind: 'quiet', what, event: '', days: 90 });

/** What can start a sequence, in the order in which it is offered. */
const CHOICES: Choice[] = [
  fixed(
    'joined',
    'joins a list',
    { kind: 'list', list: '', what: 'joined' },
    (t) => t.kind === 'list' && t.what === 'joined',
  ),
  fixed(
    'left',
    'leaves a list',
    { kind: 'list', list: '', what: 'left' },
    (t) => t.kind === 'list' && t.what === 'left',
  ),
  fixed(
    'event',
    'does something (an event)',
    { kind: 'event', event: '', where: [] },
    (t) => t.kind === 'event' && t.event !== 'form.sent' && t.event !== PAGE_EVENT,
  ),
  fixed(
    'form',
    'sends a form',
    { kind: 'event', event: 'form.sent', where: [] },
    (t) => t.kind === 'event' && t.event === 'form.sent',
  ),
  fixed(
    'page',
    'reaches a page of your site',
    { kind: 'event', event: PAGE_EVENT, where: [] },
    (t) => t.kind === 'event' && t.event === PAGE_EVENT,
  ),
  {
    value: 'unfollowed',
    label: 'does something, and nothing follows',
    blank: ({ kinds }) => ({
      kind: 'unfollowed',
      event: kinds.some((k) => k.name === PAGE_EVENT) ? PAGE_EVENT : '',
      where: [],
      without: '',
      within: { amount: 2, unit: 'hours' },
    }),
    is: (t) => t.kind === 'unfollowed',
  },
  fixed('tagged', 'gets a tag', { kind: 'tag', tag: '', what: 'added' }, (t) => t.kind === 'tag' && t.what === 'added'),
  fixed(
    'untagged',
    'loses a tag',
    { kind: 'tag', tag: '', what: 'removed' },
    (t) => t.kind === 'tag' && t.what === 'removed',
  ),
  {
    value: 'attribute',
    label: 'has an attribute that becomes …',
    blank: (a) => ({ kind: 'attribute', test: blankTest(attributeChoices(a)) }),
    is: (t) => t.kind === 'attribute',
  },
  fixed(
    'date',
    'has a date coming up, or past',
    { kind: 'date', attribute: '', days: 0, minute: 540, yearly: true },
    (t) => t.kind === 'date',
  ),
  fixed('segment', 'enters a segment', { kind: 'segment', segment: '' }, (t) => t.kind === 'segment'),
  fixed(
    'opened',
    'opens an email',
    { kind: 'reading', what: 'opened' },
    (t) => t.kind === 'reading' && t.what === 'opened',
  ),
  fixed(
    'clicked',
    'clicks in an email',
    { kind: 'reading', what: 'clicked' },
    (t) => t.kind === 'reading' && t.what === 'clicked',
  ),
  fixed(
    'not-opened',
    'has not opened anything for a while',
    quiet('opened'),
    (t) => t.kind === 'quiet' && t.what === 'opened',
  ),
  fixed(
    'not-clicked',
    'has not clicked anything for a while',
    quiet('clicked'),
    (t) => t.kind === 'quiet' && t.what === 'clicked',
  ),
  fixed(
    'not-done',
    'has not done something for a while',
    quiet('event'),
    (t) => t.kind === 'quiet' && t.what === 'event',
  ),
  fixed(
    'moment',
    'may get it: everybody, once',
    { kind: 'moment', when: 'day', day: '', minute: 540, zone: null },
    (t) => t.kind === 'moment',
  ),
  fixed('hand', 'is added by hand', { kind: 'hand' }, (t) => t.kind === 'hand'),
];

/** One trigger: what it waits for, as a sentence that `lead` begins. */
export function TriggerEditor({
  lead,
  value,
  around,
  save,
  remove,
}: PartsProps<Trigger> & { lead: string; remove: (() => void) | undefined }) {
  const choice = CHOICES.find((c) => c.is(value)) as Choice;
  const choose = (to: string) => save((CHOICES.find((c) => c.value === to) as Choice).blank(around));
  return (
    <div>
      {lead}{' '}
      <Choice
        label="It starts when someone"
        hideLabel
        inline
        value={choice.value}
        choose={choose}
        of={CHOICES.map((c) => ({ value: c.value, label: c.label }))}
      />{' '}
      <TriggerParts value={value} around={around} save={save} />
      {remove && (
        <IconButton name="Take this trigger out" onClick={remove}>
          <X size={14} />
        </IconButton>
      )}
    </div>
  );
}
