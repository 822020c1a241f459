import { Plus, X } from 'lucide-react';
import { Button, IconButton } from '../../ui/index.tsx';
import { LineEditor } from '../editors/index.ts';
import type { Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

const MOST = 8;

/** The links of a row: their words, and what each opens. */
export function LinksPanel({ block }: { block: Of<'links'> }) {
  const set = useSet(block);
  const { items } = block;
  const put = (i: number, some: Partial<(typeof items)[number]>) =>
    set(
      'items',
      items.map((item, at) => (at === i ? { ...item, ...some } : item)),
    );
  return (
    <>
      {items.map((item, i) => (
        <fieldset key={i} className="flex flex-col gap-1.5 rounded-control border border-line p-2">
          <legend className="sr-only">Link {i + 1}</legend>
          <div className="flex items-end gap-1">
            <LineEditor
              label={`Words ${i + 1}`}
              part={`link ${i + 1}`}
              value={item.label}
              save={(label) => put(i, { label })}
            />
            <IconButton
              name={`Take out link ${i + 1}`}
              disabled={items.length === 1}
              onClick={() =>
                set(
                  'items',
                  items.filter((_, at) => at !== i),
                )
              }
            >
              <X size={14} />
            </IconButton>
          </div>
          <LineEditor
            label={`Address ${i + 1}`}
            part={`address ${i + 1}`}
            value={item.address}
            placeholder="https://"
            save={(address) => put(i, { address })}
          />
        </fieldset>
      ))}
      {items.length < MOST && (
        <Button
          tone="quiet"
          className="self-start"
          onClick={() => set('items', [...items, { label: '', address: '' }])}
        >
          <Plus size={14} aria-hidden="true" />
          Another link
        </Button>
      )}
    </>
  );
}
