import { useState } from 'react';
import { toast } from 'sonner';
import {
  blockTitle,
  difference,
  findStep,
  momentWords,
  walkBlocks,
  zoneOf,
  type Block,
  type Command,
  type Email,
  type EmailStep,
} from '@ascenso/core';
import { useMarkMutation } from './endpoints.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useHistoryQuery, usePastDraftQuery } from './endpoints.ts';
import { edit, settled } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Button, Chip, Dialog, EmailFrame, TextField } from '../ui/index.tsx';
import { useComposer } from './context.ts';
import { useRendered } from './preview.ts';

interface Compared {
  block: Block;
  change: 'added' | 'changed' | 'removed';
}

/** What became of each block between two states of an email. */
function compared(before: Email, after: Email): Compared[] {
  const [old, now] = [walkBlocks(before.blocks), walkBlocks(after.blocks)];
  const own = (b: Block) =>
    JSON.stringify({
      ...b,
      ...('blocks' in b ? { blocks: 0 } : {}),
      ...('columns' in b ? { columns: b.columns.map((c) => ({ ...c, blocks: 0 })) } : {}),
    });
  return [
    ...now.flatMap(({ block }): Compared[] => {
      const known = old.find((p) => p.block.id === block.id);
      if (!known) return [{ block, change: 'added' }];
      return own(known.block) === own(block) ? [] : [{ block, change: 'changed' }];
    }),
    ...old
      .filter((p) => !now.some((n) => n.block.id === p.block.id))
      .map((p) => ({ block: p.block, change: 'removed' as const })),
  ];
}

const TONES = { added: 'live', changed: 'fix', removed: 'error' } as const;

function Side({ title, email }: { title: string; email: Email }) {
  const { around, reader, doc } = useComposer();
  const rendered = useRendered(email, around, reader.reading, doc.list === null);
  return (
    <div>
      <p className="mb-1 font-semibold">{title}</p>
      <p className="truncate text-[13px] text-ink-2">{rendered?.subject || 'No subject'}</p>
      {rendered && (
        <EmailFrame title={title} html={rendered.html} className="mt-1 h-[26rem] w-full border border-line" />
      )}
    </div>
  );
}

function Past({ revision, onClose }: { revision: number; onClose: () => void }) {
  const { id, doc, step } = useComposer();
  const dispatch = useAct();
  const { data, error } = usePastDraftQuery({ id, revision });
  if (error)
    return (
      <p role="alert" className="text-brick">
        {sentence(error)}
      </p>
    );
  if (!data) return <p className="text-ink-2">Looking back …</p>;
  const found = findStep(data.sequence, step.id)?.step;
  const past: EmailStep | null = found?.kind === 'email' ? found : null;
  if (!past) return <p className="text-ink-2">This email was not there yet.</p>;
  const changes = compared(past.email, step.email);
  const restore = () => {
    const wanted = JSON.parse(JSON.stringify(doc)) as typeof doc;
    const target = findStep(wanted, step.id)?.step;
    if (target?.kind !== 'email') return;
    target.email = past.email;
    const commands: Command[] = difference(doc, wanted);
    if (commands.length > 0 && dispatch(edit(commands))) toast('Brought back. Undo takes it away again.');
    onClose();
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        {changes.length === 0 ? (
          <span className="text-ink-2">Nothing in the blocks is different now.</span>
        ) : (
          changes.map(({ block, change }) => (
            <Chip key={block.id} tone={TONES[change]}>
              {blockTitle(block)}: {change}
            </Chip>
          ))
        )}
        <span className="flex-1" />
        <Button tone="main" onClick={restore}>
          Bring this back
        </Button>
      </div>
      <div className="grid grid-cols-2 gap-3">
        <Side title="Then" email={past.email} />
        <Side title="Now" email={step.email} />
      </div>
    </div>
  );
}

/** What the email was like before: kept by itself, and where somebody gave it a name. */
export function HistoryDialog({ onClose }: { onClose: () => void }) {
  const { id } = useComposer();
  const revision = useApp((s) => s.draft.revision);
  const dispatch = useAct();
  const { data } = useHistoryQuery({ id, revision });
  const { data: me } = useMeQuery();
  const [keep] = useMarkMutation();
  const [open, setOpen] = useState<number | null>(null);
  const [name, setName] = useState('');
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const mark = async () => {
    await dispatch(settled());
    const answer = await keep({ id, name });
    if (!answer.error) setName('');
  };
  return (
    <Dialog open onClose={onClose} title="Earlier versions" widest>
      <div className="grid grid-cols-[16rem_1fr] gap-5">
        <div>
          <form
            className="mb-3 flex items-end gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void mark();
            }}
          >
            <TextField label="Name it as it is now" value={name} onChange={(e) => setName(e.target.value)} />
            <Button type="submit" disabled={!name.trim()}>
              Keep
            </Button>
          </form>
          <ul className="flex max-h-[28rem] flex-col overflow-y-auto">
            {(data?.history ?? []).map((h) => (
              <li key={h.revision}>
                <button
                  type="button"
                  aria-pressed={open === h.revision}
                  onClick={() => setOpen(h.revision)}
                  className={`w-full rounded-control px-2 py-1.5 text-left ${open === h.revision ? 'bg-spruce-tint' : 'hover:bg-paper-2'}`}
                >
                  <b className="font-semibold">{h.name ?? momentWords(zone, h.at)}</b>
                  <span className="block text-[12px] text-ink-2">
                    {h.name ? `${momentWords(zone, h.at)}, ` : ''}
                    {h.by}
                  </span>
                </button>
              </li>
            ))}
            {data?.history.length === 0 && <li className="text-ink-2">Nothing has been edited yet.</li>}
          </ul>
        </div>
        {open === null ? (
          <p className="text-ink-2">
            Choose a moment to see what was different. Nothing changes until you bring it back.
          </p>
        ) : (
          <Past revision={open} onClose={onClose} />
        )}
      </div>
    </Dialog>
  );
}
