import { toast } from 'sonner';
import type { PersonAnswer, Surroundings } from '@ascenso/contracts';
import { sentence } from '../app/api.ts';
import { useChangePersonMutation } from './people-endpoints.ts';
import { Sheet } from '../ui/index.tsx';
import { NameField } from '../ui/name-field.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { ValueField } from '../ui/value-field.tsx';
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
        <ValueField
          key={a.key}
          label={a.label}
          kind={a}
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
