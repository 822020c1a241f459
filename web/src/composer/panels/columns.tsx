import { ArrowLeftRight, Plus, X } from 'lucide-react';
import type { Column } from '@ascenso/core';
import { Button, IconButton } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';
import { newId } from '../../ui/names.ts';
import { ColumnCondition } from '../who-sees.tsx';
import { Px, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** Columns beside each other: their shares, who sees each, and what a phone makes of them. */
export function ColumnsPanel({ block }: { block: Of<'columns'> }) {
  const set = useSet(block);
  const put = (columns: Column[]) => set('columns', columns);
  const change = (i: number, more: Partial<Column>) =>
    put(block.columns.map((c, at) => (at === i ? (JSON.parse(JSON.stringify({ ...c, ...more })) as Column) : c)));
  return (
    <>
      <Choice
        label="On a phone"
        value={block.phone}
        choose={(v) => set('phone', v)}
        of={[
          { value: 'in-order', label: 'under each other, in order' },
          { value: 'last-first', label: 'under each other, the last first' },
          { value: 'beside', label: 'still beside each other' },
        ]}
      />
      {block.columns.map((c, i) => (
        <div key={c.id} className="flex flex-col gap-2 rounded-control border border-line p-2.5">
          <div className="flex items-end gap-2">
            <div className="flex-1">
              <Px
                label={`Column ${i + 1}: share of the width`}
                value={c.share}
                unit="parts"
                save={(v) => v !== null && change(i, { share: v })}
              />
            </div>
            <IconButton
              name={`Take out column ${i + 1}`}
              disabled={block.columns.length <= 2}
              onClick={() => put(block.columns.filter((_, at) => at !== i))}
            >
              <X size={14} />
            </IconButton>
          </div>
          <ColumnCondition column={c} save={(condition) => change(i, { condition: condition ?? undefined })} />
        </div>
      ))}
      <div className="flex flex-wrap gap-1">
        <Button
          tone="quiet"
          disabled={block.columns.length >= 4}
          onClick={() => put([...block.columns, { id: newId(), share: 1, blocks: [] }])}
        >
          <Plus size={14} aria-hidden="true" />
          Column
        </Button>
        <Button tone="quiet" onClick={() => put([...block.columns].reverse())}>
          <ArrowLeftRight size={14} aria-hidden="true" />
          Swap the sides
        </Button>
      </div>
    </>
  );
}
