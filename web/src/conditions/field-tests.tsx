import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import type { Surroundings } from '@ascenso/contracts';
import { operators, valuesOf, type FieldTest, type Operator } from '@ascenso/core';
import { Button, IconButton, inputClass } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { DayField } from '../ui/moment-field.tsx';

export interface FieldChoice {
  name: string;
  label?: string;
  type: string;
  /** Values that it can have; any where there are none. */
  options?: readonly string[];
}

export const attributeChoices = (around: Surroundings): FieldChoice[] =>
  around.attributes.map((a) => ({ name: a.key, label: a.label, type: a.type, options: a.options }));

const fits: Partial<Record<Operator, (type: string | undefined) => boolean>> = {
  over: (t) => t === 'number',
  under: (t) => t === 'number',
  before: (t) => t === 'date',
  after: (t) => t === 'date',
  contains: (t) => t === 'text' || t === 'list',
  'begins with': (t) => t === 'text' || t === 'list',
  'is one of': (t) => t !== 'date' && t !== 'yes-no',
  'is none of': (t) => t !== 'date' && t !== 'yes-no',
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

/** Several values, parted by commas as they are typed. */
function SeveralField({ values, save }: { values: readonly string[]; save: (values: string[]) => void }) {
  const [text, setText] = useState(values.join(', '));
  const type = (next: string) => {
    setText(next);
    save(
      next
        .split(',')
        .map((v) => v.trim())
        .filter(Boolean),
    );
  };
  return (
    <input
      aria-label="Values, parted by commas"
      placeholder="one, another"
      value={text}
      onChange={(e) => type(e.target.value)}
      className={inputClass}
    />
  );
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
  const { type, options = [] } = fields.find((f) => f.name === test.field) ?? {};
  const set = (part: Partial<FieldTest>) => save({ ...test, ...part });
  const parse = (text: string) =>
    type === 'number' && text !== '' && !Number.isNaN(Number(text))
      ? Number(text)
      : type === 'yes-no'
        ? text === 'true'
        : text;
  const toOperator = (op: Operator) => {
    const several = op === 'is one of' || op === 'is none of';
    const [first = ''] = valuesOf(test);
    const value = several ? valuesOf(test).map((v) => String(v ?? '')) : first;
    save({ ...test, op, value });
  };
  const toField = (name: string) => {
    const ops = operatorsFor(fields.find((f) => f.name === name)?.type);
    save({ ...test, field: name, op: ops.includes(test.op) ? test.op : 'is' });
  };
  return (
    <>
      <Choice
        label="Field"
        hideLabel
        value={test.field}
        choose={toField}
        of={fields.map((f) => ({ value: f.name, label: f.label ?? f.name }))}
      />
      <Choice
        label="Comparison"
        hideLabel
        value={test.op}
        choose={toOperator}
        of={operatorsFor(type).map((o) => ({ value: o, label: o }))}
      />
      {test.op !== 'is set' &&
        test.op !== 'is not set' &&
        (Array.isArray(test.value) ? (
          <SeveralField values={test.value} save={(value) => set({ value })} />
        ) : type === 'yes-no' ? (
          <Choice
            label="Value"
            hideLabel
            value={String(test.value)}
            choose={(v) => set({ value: parse(v) })}
            of={[
              { value: 'true', label: 'yes' },
              { value: 'false', label: 'no' },
            ]}
          />
        ) : options.length > 0 && (test.op === 'is' || test.op === 'is not') ? (
          <Choice
            label="Value"
            hideLabel
            value={String(test.value ?? '')}
            choose={(v) => set({ value: v })}
            none="Choose a value …"
            of={options.map((o) => ({ value: o, label: o }))}
          />
        ) : type === 'date' ? (
          <DayField label="Value" value={String(test.value ?? '')} save={(day) => set({ value: parse(day) })} />
        ) : (
          <input
            aria-label="Value"
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
