import { useState } from 'react';
import type { ImportAnswer } from '@ascenso/contracts';
import type { FileColumn, ColumnType } from '@ascenso/core';
import { Choice, type Option } from '../../ui/choice.tsx';
import { AddAttribute } from '../add-attribute.tsx';

interface Known {
  key: string;
  label: string;
  type: ColumnType;
}

const idOf = (c: FileColumn): string => (c.to === 'attribute' ? `attribute ${c.key}` : c.to);

const EVERYBODYS: readonly (Option<string> & { column: FileColumn })[] = [
  { value: 'nothing', label: 'leave it out', column: { to: 'nothing' } },
  { value: 'email', label: 'Email address', group: 'Known of everybody', column: { to: 'email' } },
  {
    value: 'tags',
    label: 'Tags',
    note: 'one or more, with commas or semicolons between',
    group: 'Known of everybody',
    column: { to: 'tags' },
  },
  { value: 'lists', label: 'Lists', note: 'by their names', group: 'Known of everybody', column: { to: 'lists' } },
  {
    value: 'zone',
    label: 'Time zone',
    note: 'such as Europe/Lisbon',
    group: 'Known of everybody',
    column: { to: 'zone' },
  },
  {
    value: 'mail',
    label: 'Whether they get mail',
    note: 'ok, unsubscribed, bounced or complained',
    group: 'Known of everybody',
    column: { to: 'mail' },
  },
  { value: 'consent-at', label: 'Day they agreed', group: 'Known of everybody', column: { to: 'consent-at' } },
];
const NEW = 'new attribute';

/** The columns of a file with what stands in their first rows, and what each becomes. */
export function Columns({
  guess,
  attributes,
  columns,
  save,
}: {
  guess: NonNullable<ImportAnswer['guess']>;
  attributes: readonly Known[];
  columns: readonly FileColumn[];
  save: (columns: FileColumn[]) => void;
}) {
  const [making, setMaking] = useState<number | null>(null);
  const put = (i: number, column: FileColumn) => save(columns.map((c, at) => (at === i ? column : c)));
  const own = attributes.map((a) => ({
    value: `attribute ${a.key}`,
    label: a.label,
    note: a.type === 'yes-no' ? 'yes or no' : a.type,
    group: 'Attributes',
    column: { to: 'attribute', key: a.key } as const,
  }));
  return (
    <>
      <table className="w-full">
        <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
          <tr>
            <th className="w-48 py-2 pl-4 font-semibold">Column</th>
            <th className="font-semibold">Its first rows</th>
            <th className="w-72 pr-4 font-semibold">Becomes</th>
          </tr>
        </thead>
        <tbody>
          {guess.columns.map((g, i) => {
            const column = columns[i] ?? { to: 'nothing' };
            const name = g.heading || `Column ${i + 1}`;
            const make = { value: NEW, label: `A new attribute “${name}”`, group: 'Attributes' };
            const all = [...EVERYBODYS, ...own, make];
            return (
              <tr key={i} className={`border-t border-line ${column.to === 'nothing' ? 'text-ink-2' : ''}`}>
                <th scope="row" className="py-2 pl-4 text-left font-semibold">
                  {name}
                </th>
                <td className="max-w-0 truncate pr-4">
                  {g.samples.length > 0 ? g.samples.join(' · ') : <i>nothing in the first rows</i>}
                </td>
                <td className="py-1.5 pr-4">
                  <Choice
                    hideLabel
                    label={`${name} becomes`}
                    value={idOf(column)}
                    choose={(v) => {
                      // Once the list of choices has closed: a dialog in front would leave it standing.
                      if (v === NEW) requestAnimationFrame(() => setMaking(i));
                      else put(i, [...EVERYBODYS, ...own].find((o) => o.value === v)?.column ?? { to: 'nothing' });
                    }}
                    of={all}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {making !== null && (
        <AddAttribute
          called={guess.columns[making]?.heading ?? ''}
          type={guess.columns[making]?.type ?? 'text'}
          onMade={(key) => put(making, { to: 'attribute', key })}
          onClose={() => setMaking(null)}
        />
      )}
    </>
  );
}
