import { emailSteps, linksOf, type Trigger, type TriggerOf } from '@ascenso/core';
import { PAGE_EVENT, type Surroundings } from '@ascenso/contracts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { attributeChoices, FieldTests } from '../conditions/index.ts';
import { PeriodParts } from '../conditions/rows/period.tsx';
import { FieldTestParts } from '../conditions/field-tests.tsx';
import { Choice } from '../ui/choice.tsx';
import { byLabel, byName, OneOf } from '../ui/one-of.tsx';
import { DaysFrom } from './days-from.tsx';
import { MomentParts } from './moment-parts.tsx';
import { TimeOfDay } from './wait-panel.tsx';
import { NameField } from '../ui/name-field.tsx';
import { EventChoice } from '../ui/event-choice.tsx';
import { NumberInput } from '../ui/number-field.tsx';

export interface PartsProps<T> {
  value: T;
  around: Surroundings;
  save: (t: Trigger) => void;
}

function EventParts({ value, around, save }: PartsProps<TriggerOf<'event'>>) {
  const kind = around.kinds.find((k) => k.name === value.event);
  return (
    <>
      {value.event !== 'form.sent' && value.event !== PAGE_EVENT && (
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
      {value.event === PAGE_EVENT && !kind && (
        <p className="text-ink-2">Name the hosts of your site first, under People, Events and keys.</p>
      )}
      {kind && <FieldTests tests={value.where} fields={kind.fields} save={(where) => save({ ...value, where })} />}
    </>
  );
}

function UnfollowedParts({ value, around, save }: PartsProps<TriggerOf<'unfollowed'>>) {
  const kind = around.kinds.find((k) => k.name === value.event);
  return (
    <>
      <EventChoice
        label="They did"
        value={value.event}
        kinds={around.kinds}
        save={(event) => save({ ...value, event, where: [] })}
      />
      {kind && <FieldTests tests={value.where} fields={kind.fields} save={(where) => save({ ...value, where })} />}
      <EventChoice
        label="And did not, after it"
        value={value.without}
        kinds={around.kinds}
        save={(without) => save({ ...value, without })}
      />
      <div className="flex items-end gap-1">
        <span className="py-2">within</span>
        <PeriodParts label="Within how many" period={value.within} save={(within) => save({ ...value, within })} />
      </div>
      <p className="text-[12px] leading-normal text-ink-2">
        It starts when that time is up. What is told to us later than that starts nothing.
      </p>
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
      <p className="text-[12px] leading-normal text-ink-2">
        Found once in each such stretch, from the day you publish. Who has been quiet for longer is not taken in: add a
        segment by hand for those.
      </p>
    </>
  );
}

/** Any email, or one that is chosen, and of a click perhaps one link in it. */
function ReadingParts({ value, around, save }: PartsProps<TriggerOf<'reading'>>) {
  const { email } = value;
  const { currentData } = useSequenceQuery(email?.sequence ?? '', { skip: !email?.sequence });
  const emails = currentData ? emailSteps(currentData.draft) : [];
  const step = emails.find((s) => s.id === email?.step);
  const choose = (next: NonNullable<typeof email>) => save({ ...value, email: next });
  return (
    <>
      <Choice
        label="Of which sequence"
        hideLabel
        value={email?.sequence ?? ''}
        choose={(sequence) => (sequence ? choose({ sequence, step: '' }) : save({ kind: 'reading', what: value.what }))}
        of={[
          { value: '', label: 'any email of any sequence' },
          ...around.sequences.filter((s) => s.emails > 0).map((s) => ({ value: s.id, label: `of “${s.name}”` })),
        ]}
      />
      {email && (
        <Choice
          label="Which email"
          hideLabel
          value={email.step}
          choose={(id) => choose({ sequence: email.sequence, step: id })}
          of={[
            { value: '', label: 'Choose the email …' },
            ...emails.map((s) => ({ value: s.id, label: s.name || s.email.subject || 'Email' })),
          ]}
        />
      )}
      {email && step && value.what === 'clicked' && (
        <Choice
          label="Which link"
          hideLabel
          value={email.link ?? ''}
          choose={(link) => {
            const { link: _, ...any } = email;
            choose(link ? { ...email, link } : any);
          }}
          of={[
            { value: '', label: 'any link in it' },
            ...linksOf(step.email).map((l) => ({ value: l.address, label: l.label || l.address })),
          ]}
        />
      )}
      <p className="text-[12px] leading-normal text-ink-2">
        {value.what === 'opened' ? 'A click counts as an opening. ' : ''}Once for each email that somebody gets.
      </p>
    </>
  );
}

/** The parts of one trigger, whatever it waits for. */
export function TriggerParts({ value, around, save }: PartsProps<Trigger>) {
  switch (value.kind) {
    case 'list':
      return (
        <OneOf
          label="Which list"
          a="a list"
          value={value.list}
          of={byName(around.lists)}
          save={(list) => save({ ...value, list })}
          inline
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
            inline
          />
          <p className="text-[12px] leading-normal text-ink-2">
            {around.segments.length === 0
              ? 'There is no segment yet: make one under People.'
              : 'Looked at every hour. Who is in it already is not taken in.'}
          </p>
        </>
      );
    case 'unfollowed':
      return <UnfollowedParts value={value} around={around} save={save} />;
    case 'quiet':
      return <QuietParts value={value} around={around} save={save} />;
    case 'reading':
      return <ReadingParts value={value} around={around} save={save} />;
    case 'moment':
      return <MomentParts value={value} save={save} />;
    case 'hand':
      return (
        <p className="text-[12px] leading-normal text-ink-2">
          Add one person or a whole segment from the menu beside the name, once it is published.
        </p>
      );
  }
}
