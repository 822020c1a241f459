import { emailSteps, type Since } from '@ascenso/core';
import { Select } from '../../ui/index.tsx';
import { PeriodParts } from './period.tsx';
import type { Place } from './row.ts';

/** From when an event counts. */
export function SinceParts({
  since,
  doc,
  scope,
  save,
}: Pick<Place, 'doc' | 'scope'> & { since: Since; save: (s: Since) => void }) {
  const value = since.kind === 'step' ? `step ${since.step}` : since.kind;
  const choose = (to: string) => {
    if (to === 'period') save({ kind: 'period', amount: 30, unit: 'days' });
    else if (to.startsWith('step ')) save({ kind: 'step', step: to.slice(5) });
    else save({ kind: to as 'entry' | 'ever' });
  };
  return (
    <div className="flex items-end gap-1">
      <Select label="Since when" value={value} onChange={(e) => choose(e.target.value)}>
        {scope === 'visit' && <option value="entry">since they joined the sequence</option>}
        {scope === 'visit' &&
          doc &&
          emailSteps(doc).map((s) => (
            <option key={s.id} value={`step ${s.id}`}>
              since “{s.name}”
            </option>
          ))}
        <option value="period">in the last …</option>
        <option value="ever">ever</option>
      </Select>
      {since.kind === 'period' && (
        <PeriodParts label="How many" period={since} save={(p) => save({ kind: 'period', ...p })} />
      )}
    </div>
  );
}
