import { Choice } from '../../ui/choice.tsx';
import type { AtomRow, PartsProps } from './row.ts';
import { NumberInput } from '../../ui/number-field.tsx';

function PointsParts({ atom, save }: PartsProps<'points'>) {
  return (
    <div className="flex items-center gap-1">
      <Choice
        label="Comparison"
        hideLabel
        value={atom.op}
        choose={(v) => save({ ...atom, op: v })}
        className="w-24"
        of={[
          { value: 'over', label: 'over' },
          { value: 'under', label: 'under' },
        ]}
      />
      <NumberInput label="Points" value={atom.value} save={(value) => save({ ...atom, value })} className="!w-24" />
    </div>
  );
}

export const pointsRow: AtomRow<'points'> = {
  choices: [{ kind: 'points', label: 'has so many points' }],
  choiceOf: () => 'points',
  blank: () => ({ kind: 'points', op: 'over', value: 0 }),
  Parts: PointsParts,
};
