import { toast } from 'sonner';
import { useAddListMutation } from './people-endpoints.ts';
import { sentence } from '../app/api.ts';
import { NameField } from '../ui/name-field.tsx';
import { TagChips } from './tag-chips.tsx';

/** Some lists: chosen among those there are, or made in its place. */
export function ListPicker({
  chosen,
  all,
  save,
}: {
  chosen: readonly string[];
  all: readonly { id: string; name: string }[];
  save: (lists: string[]) => void;
}) {
  const [add] = useAddListMutation();
  const make = async (name: string) => {
    if (!name) return;
    const known = all.find((l) => l.name.toLowerCase() === name.toLowerCase());
    if (known) return save([...new Set([...chosen, known.id])]);
    const answer = await add(name);
    if (answer.error) toast.error(sentence(answer.error));
    else if (answer.data.id) save([...chosen, answer.data.id]);
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <TagChips
        names={chosen.map((id) => all.find((l) => l.id === id)?.name ?? '')}
        what="list"
        remove={(name) => save(chosen.filter((id) => all.find((l) => l.id === id)?.name !== name))}
      />
      <span className="w-56">
        <NameField
          label="Put them on a list"
          placeholder="Choose or name a list"
          value=""
          of={all.filter((l) => !chosen.includes(l.id)).map((l) => l.name)}
          save={(name) => void make(name)}
        />
      </span>
    </div>
  );
}
