import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { ArrowDown, ArrowUp, Columns3 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { PersonRow, Surroundings } from '@ascenso/contracts';
import { dateWords, type Value, type Zone } from '@ascenso/core';
import { personName } from '../composer/reader.tsx';
import { buttonClass, Chip, number } from '../ui/index.tsx';
import { MailChip } from './mail-chip.tsx';

interface Column {
  id: string;
  label: string;
  /** What it is ordered by, where it can be. */
  sort?: string;
  cell: (p: PersonRow) => ReactNode;
  right?: boolean;
}

const shown = (v: Value | undefined): string =>
  v === null || v === undefined
    ? ''
    : typeof v === 'boolean'
      ? v
        ? 'yes'
        : 'no'
      : Array.isArray(v)
        ? v.join(', ')
        : String(v);

const columnsOf = (attributes: Surroundings['attributes'], zone: Zone): Column[] => [
  { id: 'mail', label: 'Mail', cell: (p) => <MailChip status={p.mailStatus} /> },
  {
    id: 'tags',
    label: 'Tags',
    cell: (p) => (
      <span className="flex flex-wrap gap-1">
        {p.tags.map((t) => (
          <Chip key={t} tone="data">
            {t}
          </Chip>
        ))}
      </span>
    ),
  },
  { id: 'zone', label: 'Time zone', cell: (p) => <span className="text-ink-2">{p.zone ?? 'not known'}</span> },
  { id: 'points', label: 'Points', sort: 'points', right: true, cell: (p) => number(p.points) },
  {
    id: 'known',
    label: 'Known since',
    sort: 'known',
    cell: (p) => <span className="text-ink-2">{dateWords(zone, p.createdAt, true)}</span>,
  },
  ...attributes.map((a) => ({
    id: `attribute.${a.key}`,
    label: a.label,
    sort: `attribute.${a.key}`,
    right: a.type === 'number',
    cell: (p: PersonRow) => shown(p.attributes[a.key]),
  })),
];

const KEPT = 'people-columns';
const USUAL = ['mail', 'tags', 'zone', 'known'];

/** Which columns one sees: kept on this machine. */
function useColumns(): [string[], (ids: string[]) => void] {
  const [ids, setIds] = useState<string[]>(() => {
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? 'null');
      return Array.isArray(kept) ? kept.map(String) : USUAL;
    } catch {
      return USUAL;
    }
  });
  return [
    ids,
    (next) => {
      setIds(next);
      localStorage.setItem(KEPT, JSON.stringify(next));
    },
  ];
}

function Head({
  column,
  sort,
  order,
}: {
  column: Pick<Column, 'label' | 'sort' | 'right'>;
  sort: string;
  order: (sort: string) => void;
}) {
  const { label, sort: by, right } = column;
  const now = by === undefined ? '' : sort === by ? 'up' : sort === `-${by}` ? 'down' : '';
  return (
    <th
      className={`py-1 pr-4 font-semibold ${right ? 'text-right' : ''}`}
      {...(now ? { 'aria-sort': now === 'up' ? ('ascending' as const) : ('descending' as const) } : {})}
    >
      {by === undefined ? (
        label
      ) : (
        <button
          type="button"
          onClick={() => order(now === 'up' ? `-${by}` : by)}
          className="inline-flex min-h-6 items-center gap-1 rounded-control hover:text-ink"
        >
          {label}
          {now === 'up' && <ArrowUp size={12} aria-hidden="true" />}
          {now === 'down' && <ArrowDown size={12} aria-hidden="true" />}
        </button>
      )}
    </th>
  );
}

/** People as a table: the columns one chose, ordered by one of them, some of them chosen. */
export function PeopleTable({
  people,
  around,
  zone,
  sort,
  order,
  chosen,
  choose,
  whole,
}: {
  people: readonly PersonRow[];
  around: Pick<Surroundings, 'attributes'>;
  zone: Zone;
  sort: string;
  order: (sort: string) => void;
  chosen: ReadonlySet<string>;
  choose: (ids: ReadonlySet<string>) => void;
  /** All who fit are chosen, not those of this page alone. */
  whole: boolean;
}) {
  const all = columnsOf(around.attributes, zone);
  const [ids, setIds] = useColumns();
  const columns = all.filter((c) => ids.includes(c.id));
  const every = people.length > 0 && people.every((p) => chosen.has(p.id));
  const toggle = (id: string, on: boolean) => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    choose(next);
  };
  return (
    <table className="w-full min-w-[56rem]">
      <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
        <tr>
          <th className="w-10 pl-4">
            <input
              type="checkbox"
              aria-label="Choose all of this page"
              checked={whole || every}
              onChange={(e) => choose(new Set(e.target.checked ? people.map((p) => p.id) : []))}
            />
          </th>
          <Head column={{ label: 'Person', sort: 'email' }} sort={sort} order={order} />
          {columns.map((c) => (
            <Head key={c.id} column={c} sort={sort} order={order} />
          ))}
          <th className="w-10 pr-2 text-right">
            <Popover>
              <PopoverButton
                aria-label="Choose the columns"
                title="Choose the columns"
                className={`${buttonClass('quiet')} !px-1.5`}
              >
                <Columns3 size={15} aria-hidden="true" />
              </PopoverButton>
              <PopoverPanel
                anchor="bottom end"
                className="z-50 flex max-h-80 flex-col gap-1 overflow-y-auto rounded-sheet border border-line bg-sheet p-3 text-[14px] shadow-sm"
              >
                {all.map((c) => (
                  <label key={c.id} className="flex min-h-6 items-center gap-2">
                    <input
                      type="checkbox"
                      checked={ids.includes(c.id)}
                      onChange={(e) => setIds(e.target.checked ? [...ids, c.id] : ids.filter((i) => i !== c.id))}
                    />
                    {c.label}
                  </label>
                ))}
              </PopoverPanel>
            </Popover>
          </th>
        </tr>
      </thead>
      <tbody>
        {people.map((p) => (
          <tr key={p.id} className="border-t border-line hover:bg-paper-2">
            <td className="pl-4">
              <input
                type="checkbox"
                aria-label={`Choose ${personName(p)}`}
                checked={whole || chosen.has(p.id)}
                onChange={(e) => toggle(p.id, e.target.checked)}
              />
            </td>
            <td className="py-2 pr-4">
              <Link to={`/people/${p.id}`} className="font-semibold hover:underline">
                {personName(p)}
              </Link>
              {personName(p) !== p.email && <span className="ml-2 text-ink-2">{p.email}</span>}
            </td>
            {columns.map((c) => (
              <td key={c.id} className={`pr-4 ${c.right ? 'text-right tabular-nums' : ''}`}>
                {c.cell(p)}
              </td>
            ))}
            <td />
          </tr>
        ))}
      </tbody>
    </table>
  );
}
