import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { ImportRow } from '@ascenso/contracts';
import { momentWords, zoneOf } from '@ascenso/core';
import { sentence, useMeQuery } from '../../app/api.ts';
import { cancelSending, sendFile } from '../../app/sending-files.ts';
import { useAct } from '../../app/store.ts';
import { buttonClass, Chip, number, Sheet } from '../../ui/index.tsx';
import { FileField } from '../../ui/file-field.tsx';
import { Progress } from '../../ui/progress.tsx';
import { PeopleTabs } from '../people-tabs.tsx';
import { importsApi, useImportsQuery } from './endpoints.ts';

/** What stands in the list of an import. */
function State({ of }: { of: ImportRow }) {
  switch (of.state) {
    case 'done':
      return <Chip tone="live">In</Chip>;
    case 'undone':
      return <Chip tone="draft">Undone</Chip>;
    case 'failed':
      return <Chip tone="error">Failed</Chip>;
    case 'checking':
    case 'running':
    case 'undoing':
      return <Chip tone="data">Under way</Chip>;
    case 'uploading':
    case 'uploaded':
    case 'checked':
    case 'cancelled':
      return <Chip tone="fix">Not in yet</Chip>;
  }
}

/** Puts a file on its way; it is asked what its columns are as soon as it is there. */
function Upload() {
  const act = useAct();
  const navigate = useNavigate();
  const [file, setFile] = useState<{ name: string; size: number; sent: number } | null>(null);
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => void (here.current = false);
  }, []);
  const take = (chosen: File) => {
    setFile({ name: chosen.name, size: chosen.size, sent: 0 });
    const end = (tell: () => unknown) => () => {
      setFile(null);
      tell();
    };
    sendFile<{ id: string }>('people', `/imports?${new URLSearchParams({ name: chosen.name }).toString()}`, chosen, {
      went: (sent) => setFile({ name: chosen.name, size: chosen.size, sent }),
      arrived: ({ id }) => {
        setFile(null);
        act(importsApi.util.invalidateTags(['imports']));
        const open = () => void navigate(`/people/import/${id}`);
        // Whoever has gone on elsewhere is not carried off.
        if (here.current) open();
        else
          toast.success(`“${chosen.name}” is here.`, { action: { label: 'Say what its columns are', onClick: open } });
      },
      refused: (message) => end(() => toast.error(message))(),
      takenBack: end(() => toast(`“${chosen.name}” was taken back.`)),
      lost: end(() => toast.error(`“${chosen.name}” did not arrive. Try again.`)),
    });
  };
  if (file)
    return (
      <Progress
        words={`Bringing “${file.name}”`}
        done={file.sent}
        total={file.size}
        cancel={() => cancelSending('people')}
      />
    );
  return (
    <FileField
      label="Choose a file of people"
      hint="A CSV file, as any spreadsheet saves it, or drop it here. Nobody comes in before you have seen what would happen."
      accept=".csv,.tsv,.txt,text/csv,text/plain,text/tab-separated-values"
      take={([chosen]) => chosen && take(chosen)}
    />
  );
}

/** People in by a file: the next one, and those that came before. */
export function ImportsScreen() {
  const { data, error } = useImportsQuery(undefined, { pollingInterval: 4_000, skipPollingIfUnfocused: true });
  const { data: me } = useMeQuery();
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const all = data?.imports ?? [];
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">People</h1>
        <p className="flex-1 text-ink-2">Bring your own in, from a file.</p>
        <PeopleTabs />
      </div>
      <Sheet className="p-5">
        <Upload />
      </Sheet>
      {error && <p className="text-brick">{sentence(error)}</p>}
      {all.length > 0 && (
        <Sheet className="overflow-x-auto">
          <table className="w-full min-w-[48rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">File</th>
                <th className="font-semibold">State</th>
                <th className="pr-6 text-right font-semibold">New</th>
                <th className="pr-6 text-right font-semibold">Changed</th>
                <th className="pr-6 text-right font-semibold">Unreadable</th>
                <th className="font-semibold">By</th>
                <th className="font-semibold">When</th>
              </tr>
            </thead>
            <tbody>
              {all.map((i) => (
                <tr key={i.id} className="border-t border-line hover:bg-paper-2">
                  <td className="py-2 pl-4">
                    <Link to={`/people/import/${i.id}`} className="font-semibold hover:underline">
                      {i.name}
                    </Link>
                  </td>
                  <td>
                    <State of={i} />
                  </td>
                  {(['fresh', 'changed', 'faults'] as const).map((k) => (
                    <td key={k} className="pr-6 text-right tabular-nums">
                      {i.counts ? number(i.counts[k]) : ''}
                    </td>
                  ))}
                  <td className="text-ink-2">{i.by}</td>
                  <td className="text-ink-2">{momentWords(zone, i.createdAt)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Sheet>
      )}
      <Sheet className="flex flex-wrap items-center gap-3 p-5">
        <div className="min-w-64 flex-1">
          <h2 className="text-[16px] font-bold">And out again</h2>
          <p className="text-ink-2">
            Everybody as a file for a spreadsheet, or everything of this workspace as one archive: people, consent,
            events, emails, sequences, files, and what it is set up with. Some of them only: choose them under Everyone.
          </p>
        </div>
        <a className={buttonClass()} href="/api/people.csv" download>
          Everybody as CSV
        </a>
        {me?.user.role === 'owner' && (
          <a className={buttonClass()} href="/api/archive.zip" download>
            Everything as one archive
          </a>
        )}
      </Sheet>
    </div>
  );
}
