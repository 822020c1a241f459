import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { AttributeUse, ListDetails, TagRow } from '@ascenso/contracts';
import { useAddListMutation } from './people-endpoints.ts';
import { api, sentence } from '../app/api.ts';
import { around, DELETED } from '../app/tags.ts';
import { LabelFilter } from '../labels/label-filter.tsx';
import { LabelsOf } from '../labels/labels-of.tsx';
import { useLabelFilter } from '../labels/use-labels.ts';
import { Button, Chip, IconButton, number, Sheet, TextField } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { useUndo } from '../ui/use-undo.ts';
import { PeopleTabs } from './people-tabs.tsx';

const { useListsQuery, useTagsQuery, useChangeListMutation, useRenameTagMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    lists: b.query<{ lists: ListDetails[] }, void>({
      query: () => '/lists',
      providesTags: ['people', 'sequences', 'draft', ...around('lists')],
    }),
    changeList: b.mutation<object, { id: string; change: Partial<Pick<ListDetails, 'name' | 'publicName' | 'told'>> }>({
      query: ({ id, change }) => ({ url: `/lists/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: around('lists'),
    }),
    renameTag: b.mutation<{ undo?: string }, { tag: string; to: string }>({
      query: ({ tag, to }) => ({ url: `/tags/${encodeURIComponent(tag)}`, method: 'PATCH', body: { tag: to } }),
      invalidatesTags: ['people', ...around('tags')],
    }),
    tags: b.query<{ tags: TagRow[] }, void>({
      query: () => '/tags',
      providesTags: ['people', 'sequences', 'draft', ...around('tags')],
    }),
  }),
});

/** Places shown of one thing before the rest are counted. */
const SHOWN = 3;

/** Where something is used, each with the way there. */
export function Uses({ uses }: { uses: readonly AttributeUse[] }) {
  if (uses.length === 0) return <span className="text-ink-2">nowhere</span>;
  return (
    <ul className="text-[13px] text-ink-2">
      {uses.slice(0, SHOWN).map((u) => (
        <li key={`${u.path} ${u.name} ${u.where}`}>
          <Link to={u.path} className="underline">
            {u.name}
          </Link>
          : {u.where} {u.live && <Chip tone="live">live</Chip>}
        </li>
      ))}
      {uses.length > SHOWN && (
        <li>
          and in {number(uses.length - SHOWN)} more {uses.length === SHOWN + 1 ? 'place' : 'places'}
        </li>
      )}
    </ul>
  );
}

const headClass = 'bg-paper-2 text-left text-[12px] text-ink-2';

function Lists() {
  const { data } = useListsQuery();
  const { keeps } = useLabelFilter();
  const lists = (data?.lists ?? []).filter((l) => keeps('list', l.id));
  const [change] = useChangeListMutation();
  const [make] = useAddListMutation();
  const [name, setName] = useState('');
  const remove = useDelete('lists');
  const save = async (id: string, to: Parameters<typeof change>[0]['change']) => {
    const answer = await change({ id, change: to });
    if (answer.error) toast.error(sentence(answer.error));
  };
  const add = async () => {
    const answer = await make(name);
    if (answer.error) return void toast.error(sentence(answer.error));
    setName('');
  };
  return (
    <Sheet className="overflow-x-auto">
      <div className="flex flex-wrap items-center gap-4 px-4 pt-4 pb-2">
        <h2 className="font-head text-[16px] font-bold">Lists</h2>
        <LabelFilter kinds={['list']} />
      </div>
      <table className="w-full min-w-[64rem]">
        <thead className={headClass}>
          <tr>
            <th className="w-52 py-2 pl-4 font-semibold">Called</th>
            <th className="w-52 font-semibold">Called by its readers</th>
            <th className="w-72 font-semibold">What one is told on joining</th>
            <th className="pr-6 text-right font-semibold">Confirmed</th>
            <th className="pr-6 text-right font-semibold">Not yet</th>
            <th className="pr-6 text-right font-semibold">Left</th>
            <th className="font-semibold">Used in</th>
            <th>
              <span className="sr-only">Delete</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {lists.map((l) => (
            <tr key={l.id} className="border-t border-line align-top">
              <td className="py-2 pr-3 pl-4">
                <SavedText label={`Name of ${l.name}`} value={l.name} save={(v) => void save(l.id, { name: v })} />
                <LabelsOf kind="list" id={l.id} name={l.name} />
              </td>
              <td className="py-2 pr-3">
                <SavedText
                  label={`What the readers of ${l.name} see it called`}
                  value={l.publicName}
                  placeholder={l.name}
                  save={(v) => void save(l.id, { publicName: v })}
                />
              </td>
              <td className="py-2 pr-3">
                <SavedText
                  label={`What one is told on joining ${l.name}`}
                  value={l.told}
                  placeholder="A letter every other Friday"
                  save={(v) => void save(l.id, { told: v })}
                />
              </td>
              {[l.confirmed, l.pending, l.left].map((n, i) => (
                <td key={i} className="py-3 pr-6 text-right tabular-nums">
                  {number(n)}
                </td>
              ))}
              <td className="py-3">
                <Uses uses={l.uses} />
              </td>
              <td className="py-2 pr-2 text-right">
                <IconButton name={`Delete the list ${l.name}`} onClick={() => void remove(l.id, l.name)}>
                  <Trash2 size={15} />
                </IconButton>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <form
        className="flex items-end gap-3 border-t border-line p-4"
        onSubmit={(e) => {
          e.preventDefault();
          void add();
        }}
      >
        <div className="w-64">
          <TextField label="New list" value={name} onChange={(e) => setName(e.target.value)} required />
        </div>
        <Button type="submit">Make this list</Button>
      </form>
    </Sheet>
  );
}

function Tags() {
  const { data } = useTagsQuery();
  const [change] = useRenameTagMutation();
  const remove = useDelete('tags');
  const told = useUndo(DELETED.tags);
  const names = data?.tags.map((t) => t.tag) ?? [];
  const rename = async (tag: string, to: string) => {
    const next = to.trim();
    if (!next || next === tag) return;
    const answer = await change({ tag, to: next });
    if (answer.error) return void toast.error(sentence(answer.error));
    told(
      names.includes(next) ? `“${tag}” is one with “${next}” now.` : `“${tag}” is called “${next}” now.`,
      answer.data.undo,
    );
  };
  return (
    <Sheet className="overflow-x-auto">
      <h2 className="px-4 pt-4 font-head text-[16px] font-bold">Tags</h2>
      <p className="px-4 pb-2 text-ink-2">
        Give one the name of another, and the two become one. A tag that a sequence or a segment speaks of is changed
        there first.
      </p>
      <table className="w-full min-w-[48rem]">
        <thead className={headClass}>
          <tr>
            <th className="w-72 py-2 pl-4 font-semibold">Tag</th>
            <th className="pr-8 text-right font-semibold">People with it</th>
            <th className="font-semibold">Used in</th>
            <th>
              <span className="sr-only">Delete</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {data?.tags.map((t) => (
            <tr key={t.tag} className="border-t border-line align-top">
              <td className="py-2 pr-4 pl-4">
                {t.uses.length > 0 ? (
                  <span className="block px-2.5 py-1.5">{t.tag}</span>
                ) : (
                  <SavedText label={`Name of the tag ${t.tag}`} value={t.tag} save={(v) => void rename(t.tag, v)} />
                )}
              </td>
              <td className="py-3 pr-8 text-right tabular-nums">{number(t.people)}</td>
              <td className="py-3">
                <Uses uses={t.uses} />
              </td>
              <td className="py-2 pr-2 text-right">
                <IconButton name={`Delete the tag ${t.tag}`} onClick={() => void remove(t.tag, t.tag)}>
                  <Trash2 size={15} />
                </IconButton>
              </td>
            </tr>
          ))}
          {data?.tags.length === 0 && (
            <tr>
              <td colSpan={4} className="px-4 py-6 text-ink-2">
                Nobody has a tag yet. A sequence gives them, a file brings them, or you put one on somebody’s page.
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </Sheet>
  );
}

/** Lists and tags: how people are kept together. */
export function ListsScreen() {
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">People</h1>
        <p className="flex-1 text-ink-2">What they asked for, and what you noted about them.</p>
        <PeopleTabs />
      </div>
      <Lists />
      <Tags />
    </div>
  );
}
