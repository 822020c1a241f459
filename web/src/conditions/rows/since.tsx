import { emailSteps, type Since } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
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
      <Choice
        label="Since when"
        value={value}
        choose={choose}
        of={[
          ...(scope === 'visit' ? [{ value: 'entry', label: 'since they joined the sequence' }] : []),
          ...(scope === 'visit' && doc
            ? [...emailSteps(doc).map((s) => ({ value: `step ${s.id}`, label: `since “${s.name}”` }))]
            : []),
          { value: 'period', label: 'in the last …' },
          { value: 'ever', label: 'ever' },
        ]}
      />
      {since.kind === 'period' && (
        <PeriodParts label="How many" period={since} save={(p) => save({ kind: 'period', ...p })} />
      )}
    </div>
  );
}
