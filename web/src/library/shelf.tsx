import { Trash2 } from 'lucide-react';
import { Link } from 'react-router';
import type { SharedRow } from '@ascenso/contracts';
import type { Email } from '@ascenso/core';
import { Thumbnail } from '../composer/thumbnail.tsx';
import { Chip, Empty, IconButton } from '../ui/index.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { useLibrary } from './library.tsx';
import { Templates } from './templates.tsx';

const asEmail = (s: SharedRow): Email => ({ sender: '', subject: s.name, preview: ' ', blocks: s.blocks });

function Shared({ shared }: { shared: SharedRow }) {
  const around = useLibrary();
  const remove = useDelete('shared');
  return (
    <li className="flex gap-3 rounded-sheet border border-line bg-sheet p-3">
      <Thumbnail email={asEmail(shared)} title={`Shared block ${shared.name}`} around={around} />
      <div className="min-w-0 flex-1">
        <p className="flex items-center justify-between">
          <b className="font-semibold">{shared.name}</b>
          {shared.usedIn.length === 0 && (
            <IconButton name={`Delete ${shared.name}`} onClick={() => void remove(shared.id, shared.name)}>
              <Trash2 size={14} />
            </IconButton>
          )}
        </p>
        {shared.usedIn.length === 0 && <p className="text-ink-2">Used nowhere yet.</p>}
        <ul className="mt-1 flex max-h-36 flex-col gap-1 overflow-y-auto text-[13px]">
          {shared.usedIn.map((u) => (
            <li key={u.id} className="flex items-center gap-2">
              <Link to={`/sequences/${u.id}`} className="min-w-0 flex-1 truncate hover:underline">
                {u.name}
              </Link>
              {u.behind ? (
                <Chip tone="fix">Behind</Chip>
              ) : u.live ? (
                <Chip tone="live">Live</Chip>
              ) : (
                <Chip tone="draft">Draft</Chip>
              )}
            </li>
          ))}
        </ul>
      </div>
    </li>
  );
}

/** Emails to begin with, and blocks that many emails share. */
export function ShelfRoom() {
  const around = useLibrary();
  return (
    <>
      <Templates />
      <h2 className="text-[16px] font-bold">Shared blocks</h2>
      {around.shared.length === 0 && (
        <Empty text="No shared block yet. Choose blocks in an email, then “Into the library”: they are changed in one place from then on." />
      )}
      <ul className="grid grid-cols-2 gap-3">
        {around.shared.map((s) => (
          <Shared key={s.id} shared={s} />
        ))}
      </ul>
    </>
  );
}
