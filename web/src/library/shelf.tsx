import { Copy, Trash2, User, Users } from 'lucide-react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { SharedRow, TemplateRow } from '@ascenso/contracts';
import type { Email } from '@ascenso/core';
import { useKeepTemplateMutation } from '../composer/endpoints.ts';
import { sentence } from '../app/api.ts';
import { useTemplatesQuery } from '../composer/endpoints.ts';
import { Thumbnail } from '../composer/thumbnail.tsx';
import { LabelFilter } from '../labels/label-filter.tsx';
import { LabelsOf } from '../labels/labels-of.tsx';
import { useLabelFilter } from '../labels/use-labels.ts';
import { Chip, Empty, IconButton } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { useLibrary } from './library.tsx';

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
  const { data } = useTemplatesQuery();
  const remove = useDelete('templates');
  const { keeps } = useLabelFilter();
  const [change] = useKeepTemplateMutation();
  const keep = async (template: Parameters<typeof change>[0]) => {
    const answer = await change(template);
    if (answer.error) toast.error(sentence(answer.error));
  };
  const save = ({ id, name, email, private: own }: TemplateRow, to: { name?: string; private?: boolean }) =>
    void keep({ id, name, email, private: own, ...to });
  const duplicate = ({ name, email, private: own }: TemplateRow) =>
    void keep({ name: `${name} (copy)`.slice(0, 80), email, private: own });
  return (
    <>
      <h2 className="text-[16px] font-bold">Templates</h2>
      <LabelFilter kinds={['template']} />
      {data?.templates.length === 0 && (
        <Empty text="No template yet. Open an email and keep it as one, under Templates at its top." />
      )}
      <ul className="flex flex-wrap gap-3">
        {(data?.templates ?? [])
          .filter((t) => keeps('template', t.id))
          .map((t) => (
            <li key={t.id} className="rounded-sheet border border-line bg-sheet p-2">
              <Thumbnail email={t.email} title={`Template ${t.name}`} around={around} />
              <p className="mt-1.5 flex w-36 items-center justify-between">
                <SavedText label={`Name of the template ${t.name}`} value={t.name} save={(name) => save(t, { name })} />
                <IconButton name={`Delete ${t.name}`} onClick={() => void remove(t.id, t.name)}>
                  <Trash2 size={14} />
                </IconButton>
              </p>
              <p className="flex w-36 items-center justify-between text-[12px] text-ink-2">
                {t.private ? 'Yours alone' : 'Everyone’s'}
                <span className="flex">
                  <IconButton
                    name={t.private ? `Share ${t.name} with the team` : `Keep ${t.name} for yourself`}
                    onClick={() => save(t, { private: !t.private })}
                  >
                    {t.private ? <Users size={13} /> : <User size={13} />}
                  </IconButton>
                  <IconButton name={`Duplicate ${t.name}`} onClick={() => duplicate(t)}>
                    <Copy size={13} />
                  </IconButton>
                </span>
              </p>
              <LabelsOf kind="template" id={t.id} name={t.name} />
              <ul className="w-36 text-[12px]">
                {t.usedIn.length === 0 ? (
                  <li className="text-ink-2">Used nowhere yet.</li>
                ) : (
                  t.usedIn.map((u) => (
                    <li key={u.step} className="truncate">
                      <Link to={`/sequences/${u.sequence}/emails/${u.step}`} className="hover:underline">
                        {u.name}
                      </Link>
                    </li>
                  ))
                )}
              </ul>
            </li>
          ))}
      </ul>
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
