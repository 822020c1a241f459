import { useState } from 'react';
import { toast } from 'sonner';
import { difference, momentWords, planText, zoneOf } from '@ascenso/core';
import type { VersionRow } from '@ascenso/contracts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useLazyVersionQuery, useVersionQuery, useVersionsQuery } from './endpoints.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Button, Chip, Dialog, number } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { ChangeList } from './publish-dialog.tsx';

/** A published version as text: nothing in it can be changed any more. */
function PlanOf({ id, version }: { id: string; version: number }) {
  const { data, error } = useVersionQuery({ id, number: version });
  const names = useNames(data?.sequence ?? null);
  if (error) return <p className="text-brick">{sentence(error)}</p>;
  if (!data) return <p className="text-ink-2">Reading …</p>;
  return (
    <pre
      tabIndex={0}
      aria-label={`Plan of version ${version}`}
      className="max-h-80 overflow-auto rounded-control border border-line bg-paper-2 p-3 font-sans text-[13px] leading-relaxed whitespace-pre-wrap"
    >
      {planText(data.sequence, names)}
    </pre>
  );
}

function Version({ id, row, live, onClose }: { id: string; row: VersionRow; live: boolean; onClose: () => void }) {
  const { data: me } = useMeQuery();
  const [shown, setShown] = useState<'plan' | 'changes' | null>(null);
  const [read] = useLazyVersionQuery();
  const doc = useApp((s) => s.draft.doc);
  const dispatch = useAct();
  const restore = async () => {
    const { data, error } = await read({ id, number: row.number });
    if (!data || !doc) return toast.error(sentence(error));
    const commands = difference(doc, data.sequence);
    if (commands.length === 0) return toast('The draft is already the same as this version.');
    if (!dispatch(edit(commands))) return;
    onClose();
    toast.success(`The draft is version ${row.number} again. Undo takes it back; nothing is live until you publish.`);
  };
  return (
    <li className="flex flex-col gap-2 py-3">
      <div className="flex items-center gap-2">
        <h3 className="font-sans font-semibold">Version {row.number}</h3>
        {live && <Chip tone="live">Live</Chip>}
        <span className="flex-1 text-ink-2">
          {momentWords(zoneOf(me?.workspace.zone ?? 'UTC'), row.at)}
          {row.by && ` by ${row.by}`} · {number(row.inside)} inside, {number(row.sent)} sent
        </span>
        {row.changes.length > 0 && (
          <Button
            tone="quiet"
            aria-expanded={shown === 'changes'}
            onClick={() => setShown(shown === 'changes' ? null : 'changes')}
          >
            {row.changes.length} {row.changes.length === 1 ? 'change' : 'changes'}
          </Button>
        )}
        <Button
          tone="quiet"
          aria-expanded={shown === 'plan'}
          onClick={() => setShown(shown === 'plan' ? null : 'plan')}
        >
          Read
        </Button>
        <Button onClick={() => void restore()}>Restore into the draft</Button>
      </div>
      {shown === 'changes' && <ChangeList changes={row.changes} touched={{}} />}
      {shown === 'plan' && <PlanOf id={id} version={row.number} />}
    </li>
  );
}

/** Every version that was published: what it changed, how it reads, and the way back to it. */
export function VersionsDialog({ id, live, onClose }: { id: string; live: number | null; onClose: () => void }) {
  const { data, error } = useVersionsQuery(id, { refetchOnMountOrArgChange: true });
  return (
    <Dialog open onClose={onClose} title="Versions" wide>
      {error && (
        <p role="alert" className="font-semibold text-brick">
          {sentence(error)}
        </p>
      )}
      {data?.versions.length === 0 && (
        <p className="text-ink-2">Nothing has been published yet. Every publishing makes a version that stays.</p>
      )}
      <ul className="flex flex-col divide-y divide-line">
        {data?.versions.map((v) => (
          <Version key={v.number} id={id} row={v} live={v.number === live} onClose={onClose} />
        ))}
      </ul>
    </Dialog>
  );
}
