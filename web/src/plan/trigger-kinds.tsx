import { X } from 'lucide-react';
import type { Trigger, TriggerOf } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { attributeChoices, FieldTests } from '../conditions/index.ts';
import { blankTest, FieldTestParts } from '../conditions/field-tests.tsx';
import { IconButton } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { byLabel, byName, OneOf } from '../ui/one-of.tsx';
import { DaysFrom } from './days-from.tsx';
import { TimeOfDay } from './wait-panel.tsx';
import { NameField } from '../ui/name-field.tsx';
import { EventChoice } from '../ui/event-choice.tsx';
import { NumberInput } from '../ui/number-field.tsx';

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
    (t) => t.kind === 'event' && t.event !== 'form.sent',
  ),
  fixed(
    'form',
    'sends a form',
    { kind: 'event', event: 'form.sent', where: [] },
    (t) => t.kind === 'event' && t.event === 'form.sent',
  ),
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
  fixed('hand', 'is added by hand', { kind: 'hand' }, (t) => t.kind === 'hand'),
];

interface PartsProps<T> {
  value: T;
  around: Surroundings;
  save: (t: Trigger) => void;
}

function EventParts({ value, around, save }: PartsProps<TriggerOf<'event'>>) {
  const kind = around.kinds.find((k) => k.name === value.event);
  return (
    <>
      {value.event !== 'form.sent' && (
        <EventChoice
          hideLabel
          value={value.event}
          kinds={around.kinds}
          save={(event) => save({ ...value, event, where: [] })}
        />
      )}
      {value.event === 'form.sent' && !kind && (
        <p className="text-ink-2">No form has been sent yet. Declare its fields under People, Events and keys.</p>
      )}
      {kind && <FieldTests tests={value.where} fields={kind.fields} save={(where) => save({ ...value, where })} />}
    </>
  );
}

function DateParts({ value, around, save }: PartsProps<TriggerOf<'date'>>) {
  return (
    <div className="leading-9">
      <DaysFrom days={value.days} max={366} save={(days) => save({ ...value, days })} />{' '}
      <OneOf
        label="Which date"
        a="a date"
        value={value.attribute}
        of={byLabel(around.attributes.filter((a) => a.type === 'date'))}
        save={(attribute) => save({ ...value, attribute })}
        inline
      />{' '}
      at <TimeOfDay minute={value.minute} save={(minute) => save({ ...value, minute })} />{' '}
      <Choice
        label="How often"
        hideLabel
        value={String(value.yearly)}
        choose={(v) => save({ ...value, yearly: v === 'true' })}
        inline
        of={[
          { value: 'true', label: 'every year' },
          { value: 'false', label: 'that once' },
        ]}
      />
      <p className="text-[12px] leading-normal text-ink-2">
        In the reader’s zone.{value.yearly ? ' 29 February falls on the 28th in other years.' : ''}
      </p>
    </div>
  );
}

function QuietParts({ value, around, save }: PartsProps<TriggerOf<'quiet'>>) {
  return (
    <>
      {value.what === 'event' && (
        <EventChoice hideLabel value={value.event} kinds={around.kinds} save={(event) => save({ ...value, event })} />
      )}
      <label className="flex items-center gap-2">
        for{' '}
        <NumberInput
          label="For how many days"
          least={1}
          most={999}
          value={value.days}
          save={(days) => save({ ...value, days })}
          className="!w-20"
        />{' '}
        days
      </label>
      <p className="text-[12px] text-ink-2">
        Found once in each such stretch, from the day you publish. Who has been quiet for longer is not taken in: add a
        segment by hand for those.
      </p>
    </>
  );
}

function Parts({ value, around, save }: PartsProps<Trigger>) {
  switch (value.kind) {
    case 'list':
      return (
        <OneOf
          label="Which list"
          a="a list"
          value={value.list}
          of={byName(around.lists)}
          save={(list) => save({ ...value, list })}
        />
      );
    case 'tag':
      return (
        <NameField
          label="Which tag"
          value={value.tag}
          placeholder="kit-owner"
          of={around.tags}
          save={(tag) => save({ ...value, tag: tag.trim() })}
        />
      );
    case 'attribute':
      return (
        <div className="flex flex-col gap-1.5">
          <FieldTestParts
            test={value.test}
            fields={attributeChoices(around)}
            save={(test) => save({ ...value, test })}
          />
        </div>
      );
    case 'event':
      return <EventParts value={value} around={around} save={save} />;
    case 'date':
      return <DateParts value={value} around={around} save={save} />;
    case 'segment':
      return (
        <>
          <OneOf
            label="Which segment"
            a="a segment"
            value={value.segment}
            of={byName(around.segments)}
            save={(segment) => save({ ...value, segment })}
          />
          <p className="text-[12px] text-ink-2">
            {around.segments.length === 0
              ? 'There is no segment yet: make one under People.'
              : 'Looked at every hour. Who is in it already is not taken in.'}
          </p>
        </>
      );
    case 'quiet':
      return <QuietParts value={value} around={around} save={save} />;
    case 'reading':
      return <p className="text-[12px] text-ink-2">Any email of any sequence. A click counts as an opening.</p>;
    case 'hand':
      return (
        <p className="text-[12px] text-ink-2">
          Add one person or a whole segment from the menu beside the name, once it is published.
        </p>
      );
  }
}

/** One trigger: what it waits for, as parts of a sentence. */
export function TriggerEditor({
  value,
  around,
  save,
  remove,
}: PartsProps<Trigger> & { remove: (() => void) | undefined }) {
  const choice = CHOICES.find((c) => c.is(value)) as Choice;
  const choose = (to: string) => save((CHOICES.find((c) => c.value === to) as Choice).blank(around));
  return (
    <div className="flex flex-col gap-2 rounded-control border border-line bg-paper-2 p-2.5">
      <div className="flex items-center gap-1">
        <Choice
          label="It starts when someone"
          hideLabel
          value={choice.value}
          choose={choose}
          className="font-semibold"
          of={CHOICES.map((c) => ({ value: c.value, label: c.label }))}
        />
        {remove && (
          <IconButton name="Take this trigger out" onClick={remove}>
            <X size={14} />
          </IconButton>
        )}
      </div>
      <Parts value={value} around={around} save={save} />
    </div>
  );
}
