import { Plus, X } from 'lucide-react';
import { Button, IconButton } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';
import { LineEditor } from '../editors/index.ts';
import type { Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** The points of a list, and what stands before each. */
export function ListPanel({ block }: { block: Of<'list'> }) {
  const set = useSet(block);
  const put = (i: number, v: string) =>
    set(
      'items',
      block.items.map((item, at) => (at === i ? v : item)),
    );
  return (
    <>
      <Choice
        label="Each point has"
        value={block.marker}
        choose={(v) => set('marker', v)}
        of={[
          { value: 'tick', label: 'a tick' },
          { value: 'dash', label: 'a dash' },
          { value: 'number', label: 'a number' },
        ]}
      />
      {block.items.map((item, i) => (
        <div key={i} className="flex items-end gap-1">
          <LineEditor label={`Point ${i + 1}`} part={`item ${i + 1}`} value={item} save={(v) => put(i, v)} />
          <IconButton
            name={`Take out point ${i + 1}`}
            disabled={block.items.length === 1}
            onClick={() =>
              set(
                'items',
                block.items.filter((_, at) => at !== i),
              )
            }
          >
            <X size={14} />
          </IconButton>
        </div>
      ))}
      <Button tone="quiet" className="self-start" onClick={() => set('items', [...block.items, ''])}>
        <Plus size={14} aria-hidden="true" />
        Another point
      </Button>
    </>
  );
}
