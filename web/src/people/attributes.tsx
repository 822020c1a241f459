import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { sentence } from '../app/api.ts';
import { AddAttribute } from './add-attribute.tsx';
import {
  ATTRIBUTE_TYPES,
  parted,
  useAttributesQuery,
  useChangeAttributeMutation,
  useOrderAttributesMutation,
} from './attribute-endpoints.ts';
import { Button, IconButton, number, Sheet } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { Uses } from './lists.tsx';
import { Points } from './points.tsx';
import { PeopleTabs } from './people-tabs.tsx';

/** What is known of people: attributes of the workspace's own, in the order in which every screen shows them. */
export function AttributesScreen() {
  const { data, error } = useAttributesQuery();
  const [change] = useChangeAttributeMutation();
  const [order] = useOrderAttributesMutation();
  const remove = useDelete('attributes');
  const [adding, setAdding] = useState(false);
  const all = data?.attributes ?? [];
  const told = (answer: { error?: unknown }) => {
    if (answer.error) toast.error(sentence(answer.error));
  };
  const move = (i: number, by: 1 | -1) => {
    const keys = all.map((a) => a.key);
    const [key = ''] = keys.splice(i, 1);
    keys.splice(i + by, 0, key);
    void order(keys).then(told);
  };
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">People</h1>
        <p className="flex-1 text-ink-2">What you know of them.</p>
        <PeopleTabs />
        <Button tone="main" onClick={() => setAdding(true)}>
          <Plus size={16} aria-hidden="true" />
          New attribute
        </Button>
      </div>
      <Sheet className="overflow-x-auto">
        {error ? (
          <p className="p-5 text-brick">{sentence(error)}</p>
        ) : (
          <table className="w-full min-w-[52rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="w-64 py-2 pl-4 font-semibold">Called</th>
                <th className="font-semibold">Key</th>
                <th className="font-semibold">Values</th>
                <th className="pr-8 text-right font-semibold">People with one</th>
                <th className="font-semibold">Used in</th>
                <th>
                  <span className="sr-only">Order and delete</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {all.map((a, i) => (
                <tr key={a.key} className="border-t border-line align-top">
                  <td className="py-2 pr-4 pl-4">
                    <SavedText
                      label={`What ${a.key} is called`}
                      value={a.label}
                      save={(label) => void change({ key: a.key, change: { label } }).then(told)}
                    />
                  </td>
                  <td className="py-3 text-ink-2">{a.key}</td>
                  <td className="py-3 pr-4">
                    {a.options.length === 0 ? (
                      ATTRIBUTE_TYPES[a.type]
                    ) : (
                      <span className="-mt-1 block">
                        one of
                        <SavedText
                          label={`What ${a.key} can be, parted by commas`}
                          value={a.options.join(', ')}
                          save={(typed) => void change({ key: a.key, change: { options: parted(typed) } }).then(told)}
                        />
                      </span>
                    )}
                  </td>
                  <td className="py-3 pr-8 text-right tabular-nums">{number(a.people)}</td>
                  <td className="py-3">
                    <Uses uses={a.uses} />
                  </td>
                  <td className="py-2 pr-2 text-right whitespace-nowrap">
                    <IconButton name={`Move ${a.label} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                      <ArrowUp size={15} />
                    </IconButton>
                    <IconButton
                      name={`Move ${a.label} down`}
                      disabled={i === all.length - 1}
                      onClick={() => move(i, 1)}
                    >
                      <ArrowDown size={15} />
                    </IconButton>
                    <IconButton name={`Delete ${a.label}`} onClick={() => void remove(a.key, a.label)}>
                      <Trash2 size={15} />
                    </IconButton>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Sheet>
      <Points />
      {adding && <AddAttribute onClose={() => setAdding(false)} />}
    </div>
  );
}
