import { Trash2 } from 'lucide-react';
import { toast } from 'sonner';
import type { LabelledKind } from '@ascenso/contracts';
import { DELETED } from '../app/tags.ts';
import { sentence } from '../app/api.ts';
import { Button, IconButton } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { useUndo } from '../ui/use-undo.ts';
import { useDeleteLabelMutation, useRenameLabelMutation } from './endpoints.ts';
import { useLabelFilter } from './use-labels.ts';

/** Narrows a list to what has a label; the label that is chosen can be renamed and deleted here. Nothing where no label is in use. */
export function LabelFilter({ kinds }: { kinds: readonly LabelledKind[] }) {
  const { labels, chosen, choose } = useLabelFilter();
  const [rename] = useRenameLabelMutation();
  const [remove] = useDeleteLabelMutation();
  const told = useUndo(DELETED.labels);
  const offered = labels.filter((l) => l === chosen || l.things.some((t) => kinds.includes(t.kind)));
  if (offered.length === 0) return null;
  const renamed = async (id: string, name: string) => {
    const answer = await rename({ id, name });
    if (answer.error) toast.error(sentence(answer.error));
  };
  const gone = async (id: string, name: string) => {
    const answer = await remove(id);
    if (answer.error) return toast.error(sentence(answer.error));
    choose(null);
    told(`Deleted the label “${name}”. What had it stays.`, answer.data.undo);
  };
  return (
    <div role="group" aria-label="Labels" className="flex flex-wrap items-center gap-1.5">
      <Button
        tone={chosen ? 'plain' : 'main'}
        aria-pressed={!chosen}
        className="!py-1 text-[13px]"
        onClick={() => choose(null)}
      >
        All
      </Button>
      {offered.map((l) => (
        <Button
          key={l.id}
          tone={l === chosen ? 'main' : 'plain'}
          aria-pressed={l === chosen}
          className="!py-1 text-[13px]"
          onClick={() => choose(l.id)}
        >
          {l.name}
        </Button>
      ))}
      {chosen && (
        <span className="flex items-center gap-1">
          <SavedText
            key={chosen.id}
            label="Name of the label"
            value={chosen.name}
            save={(name) => void renamed(chosen.id, name)}
          />
          <IconButton name={`Delete the label “${chosen.name}”`} onClick={() => void gone(chosen.id, chosen.name)}>
            <Trash2 size={14} />
          </IconButton>
        </span>
      )}
    </div>
  );
}
