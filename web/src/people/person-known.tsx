import { toast } from 'sonner';
import type { PersonAnswer, Surroundings } from '@ascenso/contracts';
import type { Value } from '@ascenso/core';
import { sentence, useChangePersonMutation } from '../app/api.ts';
import { Choice } from '../ui/choice.tsx';
import { Field, Sheet } from '../ui/index.tsx';
import { DayField } from '../ui/moment-field.tsx';
import { NameField } from '../ui/name-field.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { ZoneChoice } from '../ui/zone-choice.tsx';
import { TagChips } from './tag-chips.tsx';

/** Changes a person, and tells where that is refused. */
export function useSavePerson(id: string): (part: object) => Promise<void> {
  const [change] = useChangePersonMutation();
  return async (part) => {
    const answer = await change({ id, change: part });
    if (answer.error) toast.error(sentence(answer.error));
  };
}

const asText = (v: Value | undefined): string =>
  v === null || v === undefined ? '' : Array.isArray(v) ? v.join(', ') : String(v);

/** What was typed, as the attribute has it; a figure that is none goes as it is, and is refused by name. */
const read = (type: Surroundings['attributes'][number]['type'], text: string): Value => {
  if (text === '') return null;
  if (type === 'number') return Number.isNaN(Number(text)) ? text : Number(text);
  if (type === 'list')
    return text
      .split(',')
      .map((t) => t.trim())
      .filter(Boolean);
  return text;
};

function AttributeField({
  attribute: a,
  value,
  save,
}: {
  attribute: Surroundings['attributes'][number];
  value: Value | undefined;
  save: (v: Value) => void;
}) {
  if (a.type === 'date')
    return (
      <Field label={a.label}>
        {() => <DayField label={a.label} value={asText(value).slice(0, 10)} save={save} clear={() => save(null)} />}
      </Field>
    );
  if (a.type === 'yes-no')
    return (
      <Choice
        label={a.label}
        value={value === true ? 'yes' : value === false ? 'no' : ''}
        choose={(v) => save(v === '' ? null : v === 'yes')}
        of={[
          { value: '', label: 'no value' },
          { value: 'yes', label: 'yes' },
          { value: 'no', label: 'no' },
        ]}
      />
    );
  return (
    <div>
      <p className="mb-0.5 text-[12px] text-ink-2">{a.label}</p>
      <SavedText label={a.label} value={asText(value)} placeholder="no value" save={(v) => save(read(a.type, v))} />
    </div>
  );
}

/** What is known of one person: every attribute, their zone and their points, each changed in its place. */
export function Known({
  person,
  attributes,
}: {
  person: PersonAnswer['person'];
  attributes: Surroundings['attributes'];
}) {
  const save = useSavePerson(person.id);
  return (
    <Sheet className="flex flex-col gap-2.5 p-4">
      <h2 className="font-sans font-semibold">Attributes</h2>
      {attributes.map((a) => (
        <AttributeField
          key={a.key}
          attribute={a}
          value={person.attributes[a.key]}
          save={(v) => void save({ attributes: { [a.key]: v } })}
        />
      ))}
      <ZoneChoice
        label="Time zone"
        zone={person.zone ?? ''}
        save={(zone) => void save({ zone: zone || null })}
        none="not known"
      />
      <div>
        <p className="mb-0.5 text-[12px] text-ink-2">Points</p>
        <SavedText
          label="Points"
          value={String(person.points)}
          save={(v) => void save({ points: Number.isNaN(Number(v)) ? v : Number(v) })}
        />
      </div>
    </Sheet>
  );
}

/** Tags of one person: put on, chosen or new, and taken off. */
export function PersonTags({ person, tags }: { person: PersonAnswer['person']; tags: readonly string[] }) {
  const save = useSavePerson(person.id);
  return (
    <>
      <div className="flex flex-wrap gap-1">
        <TagChips names={person.tags} what="tag" remove={(removeTag) => void save({ removeTag })} />
      </div>
      <NameField
        label="Add a tag"
        value=""
        placeholder="Add a tag"
        of={tags.filter((t) => !person.tags.includes(t))}
        save={(v) => v && void save({ addTag: v })}
      />
    </>
  );
}
