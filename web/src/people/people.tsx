import { Download, Plus, Search } from 'lucide-react';
import { useState, type FormEvent } from 'react';
import { Link, NavLink, useNavigate, useSearchParams } from 'react-router';
import type { MailStatus } from '@ascenso/core';
import { dateWords, zoneOf } from '@ascenso/core';
import {
  sentence,
  useAddPersonMutation,
  useAroundQuery,
  useMeQuery,
  usePeopleQuery,
  type Failure,
} from '../app/api.ts';
import { personName } from '../composer/reader.tsx';
import { Button, buttonClass, Chip, Dialog, Empty, inputClass, number, Sheet, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { ZoneChoice } from '../ui/zone-choice.tsx';

const PAGE = 50;

export function MailChip({ status }: { status: MailStatus }) {
  if (status === 'ok') return <Chip tone="live">Gets mail</Chip>;
  return (
    <Chip tone={status === 'unsubscribed' ? 'draft' : 'error'}>
      {{ unsubscribed: 'Unsubscribed', bounced: 'Bounced', complained: 'Complained' }[status]}
    </Chip>
  );
}

export function PeopleTabs() {
  const tab = ({ isActive }: { isActive: boolean }) =>
    `px-3 py-1.5 font-semibold first:rounded-l-control last:rounded-r-control ${isActive ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2 hover:bg-paper-2'}`;
  return (
    <nav aria-label="People" className="flex rounded-control border border-line bg-sheet">
      <NavLink to="/people" end className={tab}>
        Everyone
      </NavLink>
      <NavLink to="/people/attributes" className={tab}>
        Attributes
      </NavLink>
      <NavLink to="/people/segments" className={tab}>
        Segments
      </NavLink>
      <NavLink to="/people/lists" className={tab}>
        Lists and tags
      </NavLink>
      <NavLink to="/people/import" className={tab}>
        Import
      </NavLink>
      <NavLink to="/people/events" className={tab}>
        Events and keys
      </NavLink>
    </nav>
  );
}

function AddPerson({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { data: around } = useAroundQuery();
  const [add, { error, isLoading }] = useAddPersonMutation();
  const [zone, setZone] = useState('');
  const [list, setList] = useState('');
  const navigate = useNavigate();
  const problem = error as Failure | undefined;
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = new FormData(e.currentTarget);
    const text = (k: string) => String(form.get(k) ?? '').trim();
    const attributes = Object.fromEntries(['first_name', 'last_name'].filter((k) => text(k)).map((k) => [k, text(k)]));
    const answer = await add({
      email: text('email'),
      attributes,
      zone: zone || null,
      lists: list ? [list] : [],
    });
    if (answer.data) await navigate(`/people/${answer.data.id}`);
  };
  const known = (k: string) => around?.attributes.some((a) => a.key === k);
  return (
    <Dialog open={open} onClose={onClose} title="Add a person">
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-3">
        <TextField
          label="Email"
          name="email"
          type="email"
          required
          error={problem?.field === 'email' ? problem.message : undefined}
        />
        <div className="flex gap-3">
          {known('first_name') && <TextField label="First name" name="first_name" />}
          {known('last_name') && <TextField label="Last name" name="last_name" />}
        </div>
        <ZoneChoice label="Time zone" zone={zone} save={setZone} none="not known" />
        <Choice
          label="Confirmed list"
          value={list}
          choose={setList}
          of={[{ value: '', label: 'none' }, ...(around?.lists.map((l) => ({ value: l.id, label: l.name })) ?? [])]}
        />
        <p className="text-[13px] text-ink-2">Confirming a list starts the live sequences that begin with it.</p>
        {problem && problem.field !== 'email' && (
          <p role="alert" className="font-semibold text-brick">
            {problem.message}
          </p>
        )}
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={isLoading}>
            Add this person
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

export function PeopleScreen() {
  const [params, setParams] = useSearchParams();
  const q = params.get('q') ?? '';
  const offset = Number(params.get('from') ?? 0);
  const segment = params.get('segment') ?? '';
  const { data: around } = useAroundQuery();
  const { data, error } = usePeopleQuery({ q, offset, limit: PAGE, ...(segment ? { segment } : {}) });
  const filter = { ...(q ? { q } : {}), ...(segment ? { segment } : {}) };
  const segmentName = around?.segments.find((s) => s.id === segment)?.name;
  const { data: me } = useMeQuery();
  const [adding, setAdding] = useState(false);
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="text-[24px] font-bold">People</h1>
        <p className="flex-1 text-ink-2">
          {data && `${number(data.total)} ${q ? 'found' : segment ? `in “${segmentName ?? '…'}”` : 'in all'}`}
        </p>
        <PeopleTabs />
        <div className="relative w-60">
          <Search size={15} className="absolute top-2.5 left-2.5 text-ink-2" aria-hidden="true" />
          <input
            aria-label="Find by name or address"
            placeholder="Find by name or address"
            value={q}
            onChange={(e) =>
              setParams(
                { ...(e.target.value ? { q: e.target.value } : {}), ...(segment ? { segment } : {}) },
                { replace: true },
              )
            }
            className={`${inputClass} pl-8`}
          />
        </div>
        {data && data.total > 0 && me?.user.role !== 'reviewer' && (
          <a href={`/api/people.csv?${new URLSearchParams(filter).toString()}`} download className={buttonClass()}>
            <Download size={16} aria-hidden="true" />
            {q || segment ? 'Export these' : 'Export all'}
          </a>
        )}
        <Button tone="main" onClick={() => setAdding(true)}>
          <Plus size={16} aria-hidden="true" />
          Add a person
        </Button>
      </div>
      <Sheet className="overflow-x-auto">
        {error ? (
          <Empty text={sentence(error)} />
        ) : data && data.people.length === 0 ? (
          <Empty
            text={
              q
                ? 'Nobody is called that, and no address contains it.'
                : 'People come in through the intake, or are added here by hand.'
            }
          >
            {!q && (
              <Button tone="main" onClick={() => setAdding(true)}>
                Add the first person
              </Button>
            )}
          </Empty>
        ) : (
          <table className="w-full min-w-[56rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">Person</th>
                <th className="font-semibold">Mail</th>
                <th className="font-semibold">Tags</th>
                <th className="font-semibold">Time zone</th>
                <th className="font-semibold">Known since</th>
              </tr>
            </thead>
            <tbody>
              {data?.people.map((p) => (
                <tr key={p.id} className="border-t border-line hover:bg-paper-2">
                  <td className="py-2 pl-4">
                    <Link to={`/people/${p.id}`} className="font-semibold hover:underline">
                      {personName(p)}
                    </Link>
                    {personName(p) !== p.email && <span className="ml-2 text-ink-2">{p.email}</span>}
                  </td>
                  <td>
                    <MailChip status={p.mailStatus} />
                  </td>
                  <td>
                    <span className="flex gap-1">
                      {p.tags.map((t) => (
                        <Chip key={t} tone="data">
                          {t}
                        </Chip>
                      ))}
                    </span>
                  </td>
                  <td className="text-ink-2">{p.zone ?? 'not known'}</td>
                  <td className="text-ink-2">{dateWords(zone, p.createdAt, true)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Sheet>
      {data && data.total > PAGE && (
        <div className="flex items-center justify-end gap-3 text-ink-2">
          {number(offset + 1)} to {number(Math.min(offset + PAGE, data.total))} of {number(data.total)}
          <Button
            disabled={offset === 0}
            onClick={() => setParams({ ...filter, from: String(Math.max(0, offset - PAGE)) })}
          >
            Earlier page
          </Button>
          <Button
            disabled={offset + PAGE >= data.total}
            onClick={() => setParams({ ...filter, from: String(offset + PAGE) })}
          >
            Next page
          </Button>
        </div>
      )}
      <AddPerson open={adding} onClose={() => setAdding(false)} />
    </div>
  );
}
