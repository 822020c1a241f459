import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import type { Surroundings } from '@ascenso/contracts';
import type { FormField, OptionSets } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { Button, IconButton } from '../../ui/index.tsx';
import { NameField } from '../../ui/name-field.tsx';
import { newId } from '../../ui/names.ts';
import { SavedText } from '../../ui/saved-text.tsx';

type ChoiceField = Extract<FormField, { kind: 'choice' }>;
type Of = Pick<Surroundings, 'attributes' | 'lists' | 'tags'>;

/** A name made from a label: "Have you bound a book?" is have_you_bound_a_book. */
const nameOf = (label: string): string =>
  label
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+|_{1,60}$/g, '')
    .slice(0, 40) || 'choice';

const blankSets = (kind: OptionSets['kind'], of: Of): OptionSets => {
  switch (kind) {
    case 'nothing':
      return { kind };
    case 'tag':
      return { kind, tag: of.tags[0] ?? 'signed-up' };
    case 'list':
      return { kind, list: of.lists[0]?.id ?? '' };
    case 'attribute':
      return { kind, key: of.attributes[0]?.key ?? '', value: '' };
  }
};

/** What choosing an option does, as part of a sentence. */
function Sets({ label, sets, of, save }: { label: string; sets: OptionSets; of: Of; save: (s: OptionSets) => void }) {
  return (
    <span className="flex flex-wrap items-center gap-1.5">
      <Choice
        hideLabel
        inline
        label={`What ${label} does`}
        value={sets.kind}
        choose={(kind) => save(blankSets(kind, of))}
        of={[
          { value: 'nothing', label: 'is noted, and no more' },
          { value: 'tag', label: 'adds the tag' },
          { value: 'list', label: 'joins the list' },
          { value: 'attribute', label: 'sets' },
        ]}
      />
      {sets.kind === 'tag' && (
        <span className="w-40">
          <NameField
            label={`Tag of ${label}`}
            value={sets.tag}
            of={of.tags}
            save={(tag) => tag && save({ ...sets, tag })}
          />
        </span>
      )}
      {sets.kind === 'list' && (
        <Choice
          hideLabel
          inline
          label={`List of ${label}`}
          value={sets.list}
          choose={(list) => save({ ...sets, list })}
          of={of.lists.map((l) => ({ value: l.id, label: l.name }))}
        />
      )}
      {sets.kind === 'attribute' && (
        <>
          <Choice
            hideLabel
            inline
            label={`Attribute of ${label}`}
            value={sets.key}
            choose={(key) => save({ ...sets, key })}
            of={of.attributes.filter((a) => a.type === 'text').map((a) => ({ value: a.key, label: a.label }))}
          />
          to
          <span className="w-32">
            <SavedText label={`Value of ${label}`} value={sets.value} save={(value) => save({ ...sets, value })} />
          </span>
        </>
      )}
    </span>
  );
}

function Options({ field, of, save }: { field: ChoiceField; of: Of; save: (f: ChoiceField) => void }) {
  const put = (i: number, more: Partial<ChoiceField['options'][number]>) =>
    save({ ...field, options: field.options.map((o, at) => (at === i ? { ...o, ...more } : o)) });
  return (
    <div className="flex flex-col gap-2 border-l-2 border-line pl-3">
      {field.options.map((o, i) => (
        <div key={o.id} className="flex flex-wrap items-center gap-1.5">
          <span className="w-40">
            <SavedText label={`Option ${i + 1}`} value={o.label} save={(label) => label.trim() && put(i, { label })} />
          </span>
          <Sets label={o.label} sets={o.sets} of={of} save={(sets) => put(i, { sets })} />
          <IconButton
            name={`Take the option ${o.label} out`}
            disabled={field.options.length <= 2}
            onClick={() => save({ ...field, options: field.options.filter((_, at) => at !== i) })}
          >
            <Trash2 size={14} />
          </IconButton>
        </div>
      ))}
      <Button
        tone="quiet"
        className="self-start"
        onClick={() =>
          save({
            ...field,
            options: [
              ...field.options,
              { id: newId(), label: `Option ${field.options.length + 1}`, sets: { kind: 'nothing' } },
            ],
          })
        }
      >
        <Plus size={14} aria-hidden="true" />
        Another option
      </Button>
    </div>
  );
}

/** What a form asks for, in its order. The address is always asked for, first. */
export function Fields({ fields, of, save }: { fields: readonly FormField[]; of: Of; save: (f: FormField[]) => void }) {
  const free = of.attributes.filter((a) => !fields.some((f) => f.kind === 'attribute' && f.key === a.key));
  const put = (i: number, field: FormField) => save(fields.map((f, at) => (at === i ? field : f)));
  const move = (i: number, by: 1 | -1) => {
    const next = [...fields];
    const [field] = next.splice(i, 1);
    if (field) next.splice(i + by, 0, field);
    save(next);
  };
  const addChoice = () =>
    save([
      ...fields,
      {
        kind: 'choice',
        id: newId(),
        name: `choice_${fields.length + 1}`,
        label: 'Which of these?',
        options: ['First', 'Second'].map((label) => ({ id: newId(), label, sets: { kind: 'nothing' } })),
      },
    ]);
  return (
    <div className="flex flex-col gap-3">
      <p className="text-ink-2">The email address, always. Then:</p>
      {fields.map((f, i) => (
        <div key={f.id} className="flex flex-col gap-2 rounded-control border border-line p-3">
          <div className="flex items-center gap-2">
            <span className="flex-1">
              <SavedText
                label={`Label of field ${i + 1}`}
                value={f.label}
                save={(label) =>
                  put(
                    i,
                    f.kind === 'choice' && f.name.startsWith('choice_')
                      ? { ...f, label, name: nameOf(label) }
                      : { ...f, label },
                  )
                }
              />
            </span>
            <IconButton name={`Move ${f.label} up`} disabled={i === 0} onClick={() => move(i, -1)}>
              <ArrowUp size={15} />
            </IconButton>
            <IconButton name={`Move ${f.label} down`} disabled={i === fields.length - 1} onClick={() => move(i, 1)}>
              <ArrowDown size={15} />
            </IconButton>
            <IconButton name={`Take ${f.label} out`} onClick={() => save(fields.filter((_, at) => at !== i))}>
              <Trash2 size={15} />
            </IconButton>
          </div>
          {f.kind === 'attribute' ? (
            <label className="flex items-center gap-2 text-ink-2">
              <input
                type="checkbox"
                checked={f.required}
                onChange={(e) => put(i, { ...f, required: e.target.checked })}
              />
              must be filled in; becomes “{of.attributes.find((a) => a.key === f.key)?.label ?? f.key}”
            </label>
          ) : (
            <Options field={f} of={of} save={(next) => put(i, next)} />
          )}
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          hideLabel
          inline
          label="Ask for an attribute"
          none="Ask for an attribute …"
          value=""
          choose={(key) => {
            const a = of.attributes.find((x) => x.key === key);
            if (a) save([...fields, { kind: 'attribute', id: newId(), key, label: a.label, required: false }]);
          }}
          of={free.map((a) => ({ value: a.key, label: a.label }))}
        />
        <Button onClick={addChoice}>
          <Plus size={14} aria-hidden="true" />
          Add a choice
        </Button>
      </div>
    </div>
  );
}
