import { inputClass } from '../../ui/index.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function PointsParts({ atom, save }: PartsProps<'points'>) {
  return (
    <div className="flex items-center gap-1">
      <select
        aria-label="Comparison"
        value={atom.op}
        onChange={(e) => save({ ...atom, op: e.target.value as 'over' })}
        className={`${inputClass} !w-24`}
      >
        <option>over</option>
        <option>under</option>
      </select>
      <input
        aria-label="Points"
        type="number"
        value={atom.value}
        onChange={(e) => e.target.value !== '' && save({ ...atom, value: Number(e.target.value) })}
        className={`${inputClass} !w-24`}
      />
    </div>
  );
}

export const pointsRow: AtomRow<'points'> = {
  choices: [{ kind: 'points', label: 'has so many points' }],
  choiceOf: () => 'points',
  blank: () => ({ kind: 'points', op: 'over', value: 0 }),
  Parts: PointsParts,
};
