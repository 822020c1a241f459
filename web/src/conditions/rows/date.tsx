import { Choice } from '../../ui/choice.tsx';
import { attributeChoices } from '../field-tests.tsx';
import { NumberInput } from '../../ui/number-field.tsx';
import type { AtomRow, PartsProps } from './row.ts';

const dates = (around: PartsProps<'date'>['around']) => attributeChoices(around).filter((a) => a.type === 'date');

function DateParts({ atom, around, save }: PartsProps<'date'>) {
  return (
    <>
      <Choice
        label="Which date"
        value={atom.field}
        choose={(field) => save({ ...atom, field })}
        none="Choose a date …"
        of={dates(around).map((a) => ({ value: a.name, label: a.label ?? a.name }))}
      />
      <div className="flex items-end gap-1">
        <Choice
          label="That"
          value={atom.when}
          choose={(when) => save({ ...atom, when })}
          of={[
            { value: 'next', label: 'is in the next …' },
            { value: 'past', label: 'is in the past …' },
            { value: 'anniversary', label: 'comes round in the next …', note: 'whatever the year: a birthday' },
          ]}
        />
        <NumberInput
          className="!w-16"
          label="How many days"
          least={0}
          most={3650}
          value={atom.days}
          save={(days) => save({ ...atom, days })}
        />
        <span className="py-2">days, today too</span>
      </div>
    </>
  );
}

export const dateRow: AtomRow<'date'> = {
  choices: [
    { kind: 'date', label: 'has a date that is near' },
    { kind: 'no-date', label: 'has no date that is near' },
  ],
  choiceOf: (a) => (a.is ? 'date' : 'no-date'),
  blank: (choice, old, { around }) => ({
    ...(old?.kind === 'date' ? old : { kind: 'date', field: dates(around)[0]?.name ?? '', when: 'next', days: 7 }),
    is: choice === 'date',
  }),
  Parts: DateParts,
};
