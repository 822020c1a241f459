import { Pencil, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { dateWords, describe, zoneOf, type Condition } from '@ascenso/core';
import type { SegmentCount } from '@ascenso/contracts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useKeepSegmentMutation, useSegmentsQuery } from './people-endpoints.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { NameField } from '../ui/name-field.tsx';
import { Button, Chip, Dialog, Empty, Field, IconButton, number, Sheet, TextField } from '../ui/index.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { useNames } from '../ui/names.ts';
import { SizeLine, SizeTable } from './sizes.tsx';
import { PeopleTabs } from './people-tabs.tsx';

function SegmentDialog({
  segment,
  folders,
  onClose,
}: {
  segment: SegmentCount | 'new';
  folders: readonly string[];
  onClose: () => void;
}) {
  const known = segment === 'new' ? null : segment;
  const [name, setName] = useState(known?.name ?? '');
  const [rule, setRule] = useState<Condition | null>(known?.rule ?? null);
  const [folder, setFolder] = useState(known?.folder ?? '');
  const [change, { error, isLoading }] = useKeepSegmentMutation();
  const save = async () => {
    if (!rule) return;
    const answer = await change({ ...(known && { id: known.id }), name, rule, folder });
    if (answer.data) onClose();
  };
  return (
    <Dialog open onClose={onClose} title={known ? `Segment “${known.name}”` : 'New segment'} wide>
      <div className="flex flex-col gap-4">
        <TextField
          label="What is it called?"
          placeholder="Kit owners in Portugal"
          value={name}
          onChange={(e) => setName(e.target.value)}
          autoFocus
        />
        <Field label="Folder">
          {(id) => <NameField id={id} label="Folder" value={folder} placeholder="none" of={folders} save={setFolder} />}
        </Field>
        <ConditionEditor
          value={rule}
          scope="segment"
          doc={null}
          sentence={(words) => `Whoever ${words}.`}
          none="Say who is in it."
          save={setRule}
        />
        {known && known.usedIn.length > 0 && (
          <p className="text-ink-2">
            Used in {known.usedIn.map((n) => `“${n}”`).join(', ')}: a changed rule counts there at once.
          </p>
        )}
        {known && <SizeTable sizes={known.sizes} />}
        {error && (
          <p role="alert" className="font-semibold text-brick">
            {sentence(error)}
          </p>
        )}
        <div className="flex justify-end">
          <Button tone="main" disabled={isLoading || !rule} onClick={() => void save()}>
            {known ? 'Save this segment' : 'Make this segment'}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

/** Named rules: who is in each now, and where it is used. */
export function SegmentsScreen() {
  const { data, error } = useSegmentsQuery(undefined, { refetchOnMountOrArgChange: true });
  const [shown, setShown] = useState<SegmentCount | 'new' | null>(null);
  const names = useNames(null);
  const { data: me } = useMeQuery();
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const remove = useDelete('segments');
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">Segments</h1>
        <p className="flex-1 text-ink-2">Rules that keep themselves up to date</p>
        <PeopleTabs />
        <Button tone="main" onClick={() => setShown('new')}>
          <Plus size={16} aria-hidden="true" />
          New segment
        </Button>
      </div>
      <Sheet className="overflow-x-auto">
        {error ? (
          <Empty text={sentence(error)} />
        ) : data?.segments.length === 0 ? (
          <Empty text="A segment is a rule with a name, such as “has ordered twice”. Sequences can start with it, ask for it, or be given everyone in it.">
            <Button tone="main" onClick={() => setShown('new')}>
              Make the first one
            </Button>
          </Empty>
        ) : (
          <table className="w-full min-w-[56rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">Segment</th>
                <th className="font-semibold">Whoever</th>
                <th className="pr-6 text-right font-semibold">People now</th>
                <th className="font-semibold">Day by day</th>
                <th className="font-semibold">Used in</th>
                <th>
                  <span className="sr-only">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data?.segments.map((s, i, all) => [
                s.folder !== (all[i - 1]?.folder ?? '') && (
                  <tr key={`folder ${s.folder}`} className="border-t border-line bg-paper-2">
                    <th colSpan={6} scope="rowgroup" className="py-1.5 pl-4 text-left font-semibold">
                      {s.folder || 'In no folder'}
                    </th>
                  </tr>
                ),
                <tr key={s.id} className="border-t border-line hover:bg-paper-2">
                  <td className="py-2 pl-4 font-semibold">{s.name}</td>
                  <td className="max-w-md pr-4 text-plum">{describe(s.rule, names)}</td>
                  <td className="pr-6 text-right tabular-nums">
                    <Link to={`/people?segment=${s.id}`} className="underline">
                      {number(s.count)}
                    </Link>
                    {s.countedAt !== null && (
                      <span className="block text-[12px] text-ink-2">as of {dateWords(zone, s.countedAt, false)}</span>
                    )}
                  </td>
                  <td>
                    <SizeLine sizes={s.sizes} />
                  </td>
                  <td>
                    <span className="flex flex-wrap gap-1">
                      {s.usedIn.map((n) => (
                        <Chip key={n} tone="draft">
                          {n}
                        </Chip>
                      ))}
                    </span>
                  </td>
                  <td className="pr-3 text-right whitespace-nowrap">
                    <IconButton name={`Change “${s.name}”`} onClick={() => setShown(s)}>
                      <Pencil size={15} />
                    </IconButton>
                    <IconButton name={`Delete “${s.name}”`} onClick={() => void remove(s.id, s.name)}>
                      <Trash2 size={15} />
                    </IconButton>
                  </td>
                </tr>,
              ])}
            </tbody>
          </table>
        )}
      </Sheet>
      {shown && (
        <SegmentDialog
          segment={shown}
          folders={[...new Set(data?.segments.map((s) => s.folder).filter(Boolean))]}
          onClose={() => setShown(null)}
        />
      )}
    </div>
  );
}
