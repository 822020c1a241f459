import { Copy, PenLine, Plus, Trash2, User, Users } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { TemplateRow } from '@ascenso/contracts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useKeepTemplateMutation, useTemplatesQuery } from '../composer/endpoints.ts';
import { Thumbnail } from '../composer/thumbnail.tsx';
import { LabelFilter } from '../labels/label-filter.tsx';
import { LabelsOf } from '../labels/labels-of.tsx';
import { useLabelFilter } from '../labels/use-labels.ts';
import { senderOfCopy } from '../senders/of-copy.ts';
import { Button, buttonClass, Empty, IconButton, inputClass } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { ViewTabs } from '../ui/tabs.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { useLibrary } from './library.tsx';
import { NewTemplate } from './new-template.tsx';

type Change = Partial<Pick<TemplateRow, 'name' | 'about' | 'private'>>;

const WHOSE = [
  ['all', 'All'],
  ['team', 'Everyone’s'],
  ['mine', 'Yours alone'],
] as const;

/** One template: its picture, what it is for, whose it is, and the emails that were begun from it. */
function Template({
  template: t,
  save,
  duplicate,
}: {
  template: TemplateRow;
  save: (to: Change) => void;
  duplicate: () => void;
}) {
  const around = useLibrary();
  const remove = useDelete('templates');
  return (
    <li className="flex gap-3 rounded-sheet border border-line bg-sheet p-3">
      <Link to={`/library/templates/${t.id}`} aria-label={`Open the template ${t.name}`} className="shrink-0">
        <Thumbnail email={t.email} title={`Template ${t.name}`} around={around} />
      </Link>
      <div className="flex min-w-0 flex-1 flex-col gap-1.5">
        <SavedText label={`Name of the template ${t.name}`} value={t.name} save={(name) => save({ name })} />
        <SavedText
          area
          label={`What the template ${t.name} is for`}
          placeholder="What it is for"
          value={t.about}
          save={(about) => save({ about })}
        />
        <LabelsOf kind="template" id={t.id} name={t.name} />
        <ul className="max-h-16 overflow-y-auto text-[12px]">
          {t.usedIn.length === 0 ? (
            <li className="text-ink-2">No email was begun from it yet.</li>
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
        <p className="mt-auto flex items-center text-[12px] text-ink-2">
          <Link to={`/library/templates/${t.id}`} className={`${buttonClass()} !px-2.5 !py-1 text-[13px]`}>
            <PenLine size={13} aria-hidden="true" />
            Open
          </Link>
          <span className="ml-2.5 flex-1">{t.private ? 'Yours alone' : 'Everyone’s'}</span>
          <IconButton
            name={t.private ? `Share ${t.name} with the team` : `Keep ${t.name} for yourself`}
            onClick={() => save({ private: !t.private })}
          >
            {t.private ? <Users size={14} /> : <User size={14} />}
          </IconButton>
          <IconButton name={`Duplicate ${t.name}`} onClick={duplicate}>
            <Copy size={14} />
          </IconButton>
          <IconButton name={`Delete ${t.name}`} onClick={() => void remove(t.id, t.name)}>
            <Trash2 size={14} />
          </IconButton>
        </p>
      </div>
    </li>
  );
}

/** Emails to begin with: made and written here, named, described, filtered. */
export function Templates() {
  const { data } = useTemplatesQuery(undefined, { refetchOnMountOrArgChange: true });
  const { senders } = useLibrary();
  const { data: me } = useMeQuery();
  const { keeps } = useLabelFilter();
  const [change] = useKeepTemplateMutation();
  const [making, setMaking] = useState(false);
  const [asked, setAsked] = useState('');
  const [whose, setWhose] = useState<(typeof WHOSE)[number][0]>('all');
  const all = data?.templates ?? [];
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  const found = all.filter(
    (t) =>
      keeps('template', t.id) &&
      (whose === 'all' || t.private === (whose === 'mine')) &&
      words.every((w) => `${t.name} ${t.about} ${t.email.subject}`.toLowerCase().includes(w)),
  );
  const keep = async (template: Parameters<typeof change>[0]) => {
    const answer = await change(template);
    if (answer.error) toast.error(sentence(answer.error));
  };
  const save = ({ id, name, about, email, private: own }: TemplateRow, to: Change) =>
    void keep({ id, name, about, email, private: own, ...to });
  const duplicate = ({ name, about, email, private: own }: TemplateRow) =>
    void keep({
      name: `${name} (copy)`.slice(0, 80),
      about,
      email: { ...email, sender: senderOfCopy(email.sender, senders, me?.user.id ?? '') },
      private: own,
    });
  return (
    <>
      <div className="flex items-center gap-3">
        <h2 className="text-[16px] font-bold">Templates</h2>
        {all.length > 0 && (
          <>
            <input
              type="search"
              aria-label="Find a template"
              placeholder="Find a template"
              value={asked}
              onChange={(e) => setAsked(e.target.value)}
              className={`${inputClass} !w-56`}
            />
            <ViewTabs small name="Whose" value={whose} views={WHOSE} choose={setWhose} />
          </>
        )}
        <span className="flex-1" />
        <Button tone="main" onClick={() => setMaking(true)}>
          <Plus size={15} aria-hidden="true" />
          New template
        </Button>
      </div>
      <LabelFilter kinds={['template']} />
      {data && all.length === 0 && (
        <Empty text="No template yet. Make one here, or keep an email as one, under Templates at its top." />
      )}
      {all.length > 0 && found.length === 0 && (
        <p className="text-ink-2">None is like that. Look for fewer words, or at all of them.</p>
      )}
      <ul className="grid grid-cols-1 gap-3 lg:grid-cols-2 2xl:grid-cols-3">
        {found.map((t) => (
          <Template key={t.id} template={t} save={(to) => save(t, to)} duplicate={() => duplicate(t)} />
        ))}
      </ul>
      {making && <NewTemplate onClose={() => setMaking(false)} />}
    </>
  );
}
