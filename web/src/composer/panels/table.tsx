import { Plus, X } from 'lucide-react';
import { Button, IconButton, inputClass } from '../../ui/index.tsx';
import type { Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** Rows and columns of words. */
export function TablePanel({ block }: { block: Of<'table'> }) {
  const set = useSet(block);
  const { rows } = block;
  const width = rows[0]?.length ?? 1;
  const put = (i: number, k: number, v: string) =>
    set(
      'rows',
      rows.map((r, at) => (at === i ? r.map((c, n) => (n === k ? v : c)) : r)),
    );
  return (
    <>
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={block.head} onChange={(e) => set('head', e.target.checked)} />
        The first row names the columns
      </label>
      {rows.map((row, i) => (
        <div key={i} className="flex items-center gap-1">
          {row.map((cell, k) => (
            <input
              key={k}
              aria-label={`Row ${i + 1}, column ${k + 1}`}
              data-part={`row ${i + 1}, column ${k + 1}`}
              defaultValue={cell}
              onBlur={(e) => e.target.value !== cell && put(i, k, e.target.value)}
              className={`${inputClass} !min-w-0 !px-1.5`}
            />
          ))}
          <IconButton
            name={`Take out row ${i + 1}`}
            disabled={rows.length === 1}
            onClick={() =>
              set(
                'rows',
                rows.filter((_, at) => at !== i),
              )
            }
          >
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <div className="flex flex-wrap gap-1">
        <Button tone="quiet" onClick={() => set('rows', [...rows, Array.from({ length: width }, () => '')])}>
          <Plus size={14} aria-hidden="true" />
          Row
        </Button>
        <Button
          tone="quiet"
          disabled={width >= 6}
          onClick={() =>
            set(
              'rows',
              rows.map((r) => [...r, '']),
            )
          }
        >
          <Plus size={14} aria-hidden="true" />
          Column
        </Button>
        <Button
          tone="quiet"
          disabled={width <= 1}
          onClick={() =>
            set(
              'rows',
              rows.map((r) => r.slice(0, -1)),
            )
          }
        >
          Last column out
        </Button>
      </div>
    </>
  );
}
