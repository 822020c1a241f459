import { DAY_ORDER, dayOrders, readNumber, type ImportPlan } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { Field, inputClass, number } from '../../ui/index.tsx';
import { NameField } from '../../ui/name-field.tsx';
import { ListPicker } from '../list-picker.tsx';
import { TagChips } from '../tag-chips.tsx';

/** A plan that is being made: how numbers are written is not said yet where the file leaves it open. */
export type Planned = Omit<ImportPlan, 'decimal'> & { decimal: ImportPlan['decimal'] | null };
type Set = <K extends keyof Planned>(key: K, value: Planned[K]) => void;

const UNSAID = 'unsaid';

/** Both ways of writing numbers, and what a number of the file is by them where they differ. */
const decimals = (either: string | null) =>
  (['.', ','] as const).map((value) => {
    const n = either === null ? null : readNumber(either, value);
    const reads = n === null ? '' : number(n);
    return {
      value,
      label: value === '.' ? 'as 1,234.5' : 'as 1.234,5',
      reads,
      ...(reads && { note: `“${either}” is ${reads}` }),
    };
  });

const words = (text: string) =>
  text
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean);

/** How the cells are written: one sentence, whose parts are chosen. */
export function Writing({
  plan,
  set,
  either,
  unsaid,
}: {
  plan: Planned;
  set: Set;
  /** A number of the file that could be read two ways, or null. */
  either: string | null;
  /** Whether the file was to be checked before that was said. */
  unsaid: boolean;
}) {
  return (
    <>
      <p className="leading-9">
        The first row{' '}
        <Choice
          hideLabel
          inline
          label="The first row"
          value={plan.heading ? 'heading' : 'person'}
          choose={(v) => set('heading', v === 'heading')}
          of={[
            { value: 'heading', label: 'names the columns' },
            { value: 'person', label: 'is a person already' },
          ]}
        />
        . Dates are written{' '}
        <Choice
          hideLabel
          inline
          label="Order of a date"
          value={plan.days}
          choose={(v) => set('days', v)}
          of={dayOrders.map((d) => ({ value: d, label: DAY_ORDER[d] }))}
        />
        , numbers{' '}
        <Choice
          hideLabel
          inline
          label="How numbers are written"
          value={plan.decimal ?? (either === null ? '.' : UNSAID)}
          choose={(v) => v !== UNSAID && set('decimal', v)}
          of={
            plan.decimal === null && either !== null
              ? [{ value: UNSAID, label: 'choose how' }, ...decimals(either)]
              : decimals(either)
          }
        />
        . Yes is{' '}
        <input
          aria-label="Words for yes"
          defaultValue={plan.yes.join(', ')}
          onBlur={(e) => set('yes', words(e.target.value))}
          className={`${inputClass} inline-block !w-56 align-middle`}
        />{' '}
        and no is{' '}
        <input
          aria-label="Words for no"
          defaultValue={plan.no.join(', ')}
          onBlur={(e) => set('no', words(e.target.value))}
          className={`${inputClass} inline-block !w-56 align-middle`}
        />
        .
      </p>
      {either !== null && plan.decimal === null && (
        <p role={unsaid ? 'alert' : undefined} className="font-semibold text-brick">
          “{either}” could be{' '}
          {decimals(either)
            .map((d) => d.reads)
            .join(' or ')}
          : say how numbers are written{unsaid ? ' before the file is checked' : ''}.
        </p>
      )}
    </>
  );
}

/** What is done with them: whom a file changes, where they go, and where their consent comes from. */
export function Doing({
  plan,
  set,
  lists,
  tags,
  error,
}: {
  plan: Planned;
  set: Set;
  lists: readonly { id: string; name: string }[];
  tags: readonly string[];
  /** What is wrong with the consent, in words. */
  error: string | undefined;
}) {
  return (
    <div className="flex flex-col gap-4">
      <p className="leading-9">
        Of somebody whose address you have,{' '}
        <Choice
          hideLabel
          inline
          label="Somebody whose address is known"
          value={plan.known}
          choose={(v) => set('known', v)}
          of={[
            {
              value: 'fill',
              label: 'only what is empty is filled',
              note: 'What you have stays; tags and lists are added.',
            },
            {
              value: 'overwrite',
              label: 'what you have is overwritten',
              note: 'By cells that are not empty; tags and lists are added.',
            },
            { value: 'leave', label: 'nothing changes', note: 'Only people who are new come in.' },
          ]}
        />
        . Whoever has left a list stays off it, and whom the file says that mail has ended for gets none.
      </p>
      <div>
        <h3 className="mb-1 text-[12px] text-ink-2">All of them join</h3>
        <ListPicker chosen={plan.lists} all={lists} save={(next) => set('lists', next)} />
      </div>
      <div>
        <h3 className="mb-1 text-[12px] text-ink-2">All of them get the tags</h3>
        <div className="flex flex-wrap items-center gap-2">
          <TagChips
            names={plan.tags}
            what="tag"
            remove={(t) =>
              set(
                'tags',
                plan.tags.filter((x) => x !== t),
              )
            }
          />
          <span className="w-56">
            <NameField
              label="Tag them"
              placeholder="Choose or name a tag"
              value=""
              of={tags.filter((t) => !plan.tags.includes(t))}
              save={(t) => t && set('tags', [...new Set([...plan.tags, t])])}
            />
          </span>
        </div>
      </div>
      <Field
        label="Where did they agree to get your emails?"
        error={error}
        hint="It is kept with each of them, and shown on their page."
      >
        {(id) => (
          <textarea
            id={id}
            rows={2}
            value={plan.consent}
            placeholder="Signed the card at our stand, spring fair in Porto, March 2026"
            onChange={(e) => set('consent', e.target.value)}
            className={inputClass}
          />
        )}
      </Field>
    </div>
  );
}
