import { Plus, X } from 'lucide-react';
import { describe, type Atom, type Condition, type Sequence } from '@ascenso/core';
import { useSurroundings } from '../app/around.ts';
import { useMatchesQuery } from './endpoints.ts';
import { Button, IconButton, number } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { useNames } from '../ui/names.ts';
import { blankRow, fromRows, rowKindOf, rowKinds, rowsOf } from './kinds.ts';
import { rowOfAtom, type Place, type Scope } from './rows/index.ts';

interface EditorProps {
  value: Condition | null;
  save: (c: Condition | null) => void;
  scope: Scope;
  doc: Sequence | null;
}

/** The settings of one row, whatever it asks. */
function RowParts({ atom, ...rest }: Place & { atom: Atom; save: (a: Atom) => void }) {
  const { Parts } = rowOfAtom(atom.kind);
  return <Parts atom={atom} {...rest} />;
}

/** Groups nest this deep on the screen: deeper ones nobody reads. */
const DEEPEST = 3;

function RowsEditor({ value, save, scope, doc, depth }: EditorProps & { depth: number }) {
  const around = useSurroundings();
  const { mode, rows } = rowsOf(value);
  if (!around) return null;
  const put = (next: Condition[], m = mode) =>
    save(depth > 0 ? { kind: m, of: next } : fromRows({ mode: m, rows: next }));
  const set = (i: number, c: Condition) => put(rows.map((r, at) => (at === i ? c : r)));
  const offered = rowKinds.filter((k) => (k.in?.includes(scope) ?? true) && (depth < DEEPEST || k.kind !== 'group'));
  return (
    <div className="flex flex-col gap-2">
      {rows.length > 1 && (
        <Choice
          label="How the conditions join"
          hideLabel
          value={mode}
          choose={(v) => put(rows, v)}
          className="w-auto self-start text-[13px]"
          of={[
            { value: 'all', label: 'all of these hold' },
            { value: 'any', label: 'any of these holds' },
          ]}
        />
      )}
      {rows.map((row, i) => (
        <div key={i} className="flex flex-col gap-2 rounded-control border border-[#dcc8d9] bg-paper-2 p-2.5">
          <div className="flex items-center gap-1">
            <Choice
              label="They"
              hideLabel
              value={rowKindOf(row)}
              choose={(v) => set(i, blankRow(v, row, { scope, doc, around }))}
              className="font-semibold"
              of={offered.map((k) => ({ value: k.kind, label: k.label, ...(k.group ? { group: k.group } : {}) }))}
            />
            <IconButton name="Take this condition out" onClick={() => put(rows.filter((_, at) => at !== i))}>
              <X size={14} />
            </IconButton>
          </div>
          {row.kind === 'all' || row.kind === 'any' ? (
            <RowsEditor value={row} save={(c) => c && set(i, c)} scope={scope} doc={doc} depth={depth + 1} />
          ) : row.kind === 'not' ? (
            <p className="text-ink-2">{describe(row)}</p>
          ) : (
            <RowParts atom={row} around={around} doc={doc} scope={scope} save={(a) => set(i, a)} />
          )}
        </div>
      ))}
      <Button
        tone="quiet"
        className="self-start"
        onClick={() => put([...rows, blankRow(rows.length === 0 ? 'did' : 'tag', null, { scope, doc, around })])}
      >
        <Plus size={14} aria-hidden="true" />
        {rows.length === 0 ? 'Only who …' : 'And who …'}
      </Button>
    </div>
  );
}

/** How many people it is true for now: about so many at once, where counting takes a while, and the count behind it. */
function Matches({ condition }: { condition: Condition }) {
  const { data: quick } = useMatchesQuery({ condition, quick: true });
  const { data: counted } = useMatchesQuery({ condition }, { skip: !quick?.about });
  const data = counted ?? quick;
  if (!data) return null;
  return (
    <span className="block text-[12px]">
      {data.matches === null
        ? 'Asked of each person when they get here.'
        : data.about
          ? `True for about ${number(data.matches)} of ${number(data.total)} people; counting them …`
          : `True for ${number(data.matches)} of ${number(data.total)} people now.`}
    </span>
  );
}

/** Builds a condition, and reads it back as a sentence: the same wherever one is asked for. */
export function ConditionEditor({
  sentence,
  none,
  ...rest
}: EditorProps & { sentence: (words: string) => string; none: string }) {
  const names = useNames(rest.doc);
  const { value } = rest;
  return (
    <div className="flex flex-col gap-2">
      <RowsEditor {...rest} depth={0} />
      <p className="rounded-control bg-plum-tint px-3 py-2 text-plum">
        {value ? sentence(describe(value, names)) : none}
        {value && <Matches condition={value} />}
      </p>
    </div>
  );
}
