import { Paperclip, X } from 'lucide-react';
import type { Email, HouseStyle } from '@ascenso/core';
import { unseenOf } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { attachFile } from './actions.ts';
import { useAct } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { FileField } from '../ui/file-field.tsx';
import { IconButton } from '../ui/index.tsx';
import { useComposer } from './context.ts';
import { LineEditor } from './editors/index.ts';
import { useUpload } from './uploads.ts';

type Counted = 'both' | 'openings' | 'clicks' | 'neither';

const COUNTED: Record<Counted, string> = {
  both: 'openings and clicks',
  clicks: 'clicks alone',
  openings: 'openings alone',
  neither: 'nothing',
};

const countedOf = ({ uncounted = [] }: Email): Counted =>
  uncounted.length === 2
    ? 'neither'
    : uncounted[0] === 'openings'
      ? 'clicks'
      : uncounted[0] === 'clicks'
        ? 'openings'
        : 'both';

const UNCOUNTED: Record<Counted, Email['uncounted'] | null> = {
  both: null,
  clicks: ['openings'],
  openings: ['clicks'],
  neither: ['openings', 'clicks'],
};

const PARAMETERS = ['source', 'medium', 'campaign', 'content'] as const;

/** Campaign parameters of this email's links: as the house has them, or its own. */
function CampaignOfEmail({
  own,
  house,
  set,
}: {
  own: Email['campaign'];
  house: HouseStyle['campaign'];
  set: (v: unknown) => void;
}) {
  return (
    <>
      <div className="w-56">
        <Choice
          label="Campaign parameters"
          value={own ? 'own' : 'house'}
          choose={(v) => set(v === 'own' ? { ...house } : null)}
          of={[
            { value: 'house', label: 'as the house has them' },
            { value: 'own', label: 'of its own' },
          ]}
        />
      </div>
      {own &&
        PARAMETERS.map((p) => (
          <LineEditor
            key={p}
            label={`utm_${p}`}
            value={own[p] ?? house[p]}
            placeholder="none"
            save={(v) => set({ ...own, [p]: v.trim() })}
          />
        ))}
    </>
  );
}

const size = (bytes: number) =>
  bytes < 1_000_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;

/** Files that go along with every copy, each with its size. */
function Attachments({ ids, set }: { ids: readonly string[]; set: (v: string[] | null) => void }) {
  const { id: draft, step, around } = useComposer();
  const dispatch = useAct();
  const attach = (id: string) => dispatch(attachFile(draft, step.id, id));
  const [upload, uploading] = useUpload();
  const known = ids.map((id) => ({ id, file: around.files.find((f) => f.id === id) }));
  const total = known.reduce((sum, { file }) => sum + (file?.size ?? 0), 0);
  const offered = around.files.filter((f) => !ids.includes(f.id));
  return (
    <div className="flex flex-wrap items-center gap-2" data-part="attachments" tabIndex={-1}>
      <span className="flex items-center gap-1.5 text-[13px]">
        <Paperclip size={14} aria-hidden="true" />
        {ids.length === 0 ? 'No file goes along.' : `Goes along with every copy, ${size(total)}:`}
      </span>
      {known.map(({ id, file }) => (
        <span key={id} className="flex items-center rounded-control border border-line bg-sheet pl-2 text-[13px]">
          {file ? `${file.name}, ${size(file.size)}` : 'a file that is gone'}
          <IconButton
            name={`Leave out ${file?.name ?? 'the file that is gone'}`}
            onClick={() => set(ids.length > 1 ? ids.filter((k) => k !== id) : null)}
          >
            <X size={13} />
          </IconButton>
        </span>
      ))}
      {ids.length < 5 && (
        <>
          <div className="w-52">
            <Choice
              label="Attach a file"
              hideLabel
              value=""
              choose={(id) => id && attach(id)}
              of={[
                { value: '', label: 'Attach a file …' },
                ...offered.map((f) => ({ value: f.id, label: f.name, note: size(f.size) })),
              ]}
            />
          </div>
          <FileField
            label="Upload and attach"
            hint="PDF, ZIP or picture"
            busy={uploading ? 'Uploading …' : null}
            accept=".pdf,.zip,image/png,image/jpeg,image/gif,image/webp"
            take={([file]) => file && void upload(file, attach)}
          />
        </>
      )}
    </div>
  );
}

/** What is counted of an email, what its links carry, and what goes along with it. */
export function Besides() {
  const { step, around } = useComposer();
  const dispatch = useAct();
  const { email } = step;
  const set = (field: 'uncounted' | 'campaign' | 'attachments', value: unknown) =>
    void dispatch(edit([{ type: 'email.set', step: step.id, field, value }]));
  const counted = countedOf(email);
  return (
    <div className="mt-3 flex flex-col gap-3">
      <div className="flex items-start gap-3">
        <div className="w-56">
          <Choice
            label="What is counted"
            value={counted}
            choose={(v) => set('uncounted', UNCOUNTED[v])}
            of={(Object.keys(COUNTED) as Counted[]).map((c) => ({ value: c, label: COUNTED[c] }))}
          />
        </div>
        <CampaignOfEmail own={email.campaign} house={around.style.campaign} set={(v) => set('campaign', v)} />
        {counted !== 'both' && (
          <p className="max-w-80 self-end pb-1.5 text-[12px] text-ink-2">
            {unseenOf(email).clicks &&
              'Links lead straight to their pages; files of ours are still fetched from here. '}
            {unseenOf(email).openings && 'No picture counts who opens it. '}
            What is not counted cannot be asked about either.
          </p>
        )}
      </div>
      <Attachments ids={email.attachments ?? []} set={(v) => set('attachments', v)} />
    </div>
  );
}
