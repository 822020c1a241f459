import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { useState } from 'react';
import type { PickedItem, RepeatBlock } from '@ascenso/core';
import { sentence } from '../../app/api.ts';
import { SavedText } from '../../ui/saved-text.tsx';
import { Button, IconButton, TextField } from '../../ui/index.tsx';
import { useDescribePageMutation } from '../endpoints.ts';
import { Note } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** The articles that a repeat goes through: each picked by the address of its page, which says what it is. */
export function Picked({ block }: { block: RepeatBlock }) {
  const set = useSet(block);
  const items = block.picked ?? [];
  const [address, setAddress] = useState('');
  const [describe, { isLoading, error }] = useDescribePageMutation();
  const put = (next: PickedItem[]) => set('picked', next);
  const change = (at: number, to: Partial<PickedItem>) => put(items.map((k, i) => (i === at ? { ...k, ...to } : k)));
  const move = (at: number, by: 1 | -1) =>
    put(items.with(at, items[at + by] as PickedItem).with(at + by, items[at] as PickedItem));
  const pick = async () => {
    const { data } = await describe({ address, keep: false });
    if (!data) return;
    put([...items, { title: data.title, text: data.summary, picture: data.picture, link: address.trim() }]);
    setAddress('');
  };
  return (
    <div className="flex flex-col gap-2">
      <ol className="flex flex-col gap-2">
        {items.map((item, i) => (
          <li key={`${i} ${item.link}`} className="rounded-control border border-line p-2">
            <div className="flex items-center gap-1">
              {item.picture && <img src={item.picture} alt="" className="size-8 rounded-[4px] object-cover" />}
              <span className="min-w-0 flex-1 truncate text-[12px] text-ink-2" title={item.link}>
                {item.link || 'leads nowhere'}
              </span>
              <IconButton name={`${item.title} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                <ArrowUp size={13} />
              </IconButton>
              <IconButton name={`${item.title} down`} disabled={i === items.length - 1} onClick={() => move(i, 1)}>
                <ArrowDown size={13} />
              </IconButton>
              <IconButton name={`Leave out ${item.title}`} onClick={() => put(items.filter((_, k) => k !== i))}>
                <X size={13} />
              </IconButton>
            </div>
            <div className="mt-1 flex flex-col gap-1">
              <SavedText
                label={`Title of article ${i + 1}`}
                value={item.title}
                save={(title) => change(i, { title })}
              />
              <SavedText
                label={`Words of article ${i + 1}`}
                value={item.text}
                placeholder="A few words"
                save={(text) => change(i, { text })}
              />
            </div>
          </li>
        ))}
      </ol>
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          e.stopPropagation();
          void pick();
        }}
      >
        <TextField
          label="Pick an article by its address"
          placeholder="https://"
          value={address}
          onChange={(e) => setAddress(e.target.value)}
          error={error ? sentence(error) : undefined}
        />
        <Button type="submit" disabled={isLoading || address.trim() === '' || items.length >= 24}>
          {isLoading ? 'Reading …' : 'Pick it'}
        </Button>
      </form>
      {items.length === 0 && <Note>Each is filled in from its page, and can be changed here.</Note>}
    </div>
  );
}
