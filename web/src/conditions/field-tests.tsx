import { Plus, X } from 'lucide-react';
import type { Surroundings } from '@ascenso/contracts';
import { operators, type FieldTest, type Operator } from '@ascenso/core';
import { Button, IconButton, inputClass } from '../ui/index.tsx';

export interface FieldChoice {
  name: string;
  label?: string;
  type: string;
}

export const attributeChoices = (around: Surroundings): FieldChoice[] =>
  around.attributes.map((a) => ({ name: a.key, label: a.label, type: a.type }));

const fits: Partial<Record<Operator, (type: string | undefined) => boolean>> = {
  over: (t) => t === 'number',
  under: (t) => t === 'number',
  before: (t) => t === 'date',
  after: (t) => t === 'date',
  contains: (t) => t === 'text' || t === 'list',
};
const operatorsFor = (type: string | undefined) => operators.filter((o) => fits[o]?.(type) ?? true);

/** A test that begins with the first field there is. */
export function blankTest(fields: FieldChoice[]): FieldTest {
  const first = fields[0];
  return {
    field: first?.name ?? '',
    op: first?.type === 'number' ? 'over' : 'is',
    value: first?.type === 'number' ? 0 : '',
  };
}

/** One test on a named value: "total over 25". */
export function FieldTestParts({
  test,
  fields,
  save,
}: {
  test: FieldTest;
  fields: FieldChoice[];
  save: (t: FieldTest) => void;
}) {
  const type = fields.find((f) => f.name === test.field)?.type;
  const set = (part: Partial<FieldTest>) => save({ ...test, ...part });
  const parse = (text: string) =>
    type === 'number' && text !== '' && !Number.isNaN(Number(text))
      ? Number(text)
      : type === 'yes-no'
        ? text === 'true'
        : text;
  const toField = (name: string) => {
    const ops = operatorsFor(fields.find((f) => f.name === name)?.type);
    save({ ...test, field: name, op: ops.includes(test.op) ? test.op : 'is' });
  };
  return (
    <>
      <select aria-label="Field" value={test.field} onChange={(e) => toField(e.target.value)} className={inputClass}>
        {fields.map((f) => (
          <option key={f.name} value={f.name}>
            {f.label ?? f.name}
          </option>
        ))}
      </select>
      <select
        aria-label="Comparison"
        value={test.op}
        onChange={(e) => set({ op: e.target.value as Operator })}
        className={inputClass}
      >
        {operatorsFor(type).map((o) => (
          <option key={o}>{o}</option>
        ))}
      </select>
      {test.op !== 'is set' &&
        test.op !== 'is not set' &&
        (type === 'yes-no' ? (
          <select
            aria-label="Value"
            value={String(test.value)}
            onChange={(e) => set({ value: parse(e.target.value) })}
            className={inputClass}
          >
            <option value="true">yes</option>
            <option value="false">no</option>
          </select>
        ) : (
          <input
            aria-label="Value"
            type={type === 'date' ? 'date' : 'text'}
            value={String(test.value ?? '')}
            onChange={(e) => set({ value: parse(e.target.value) })}
            className={inputClass}
          />
        ))}
    </>
  );
}

/** Tests on the fields of an event, all of which have to hold. */
export function FieldTests({
  tests,
  fields,
  save,
}: {
  tests: FieldTest[];
  fields: FieldChoice[];
  save: (t: FieldTest[]) => void;
}) {
  return (
    <div className="flex flex-col gap-1.5">
      {tests.map((t, i) => (
        <div key={i} className="flex items-center gap-1">
          <FieldTestParts test={t} fields={fields} save={(next) => save(tests.map((k, at) => (at === i ? next : k)))} />
          <IconButton name="Take this test out" onClick={() => save(tests.filter((_, k) => k !== i))}>
            <X size={14} />
          </IconButton>
        </div>
      ))}
      {fields.length > 0 && (
        <Button tone="quiet" className="self-start" onClick={() => save([...tests, blankTest(fields)])}>
          <Plus size={14} aria-hidden="true" />
          Only if …
        </Button>
      )}
    </div>
  );
}
