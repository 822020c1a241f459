import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { momentWords, zoneOf } from '@ascenso/core';
import { sentence, useMeQuery, type Failure } from '../app/api.ts';
import { Button, Chip, Sheet, TextField } from '../ui/index.tsx';
import { agentWords } from './agent.ts';
import {
  useChangePasswordMutation,
  useEndOtherSessionsMutation,
  useEndSessionMutation,
  useSessionsQuery,
} from './endpoints.ts';

function Password() {
  const [change, { error, isLoading, reset }] = useChangePasswordMutation();
  const [old, setOld] = useState('');
  const [next, setNext] = useState('');
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const answer = await change({ old, next });
    if (answer.error) return;
    setOld('');
    setNext('');
    reset();
    toast.success('Your password is changed. Everywhere else you are signed out.');
  };
  const failure = error as Failure | undefined;
  const of = (field: string) => (failure?.field === field ? sentence(failure) : undefined);
  return (
    <Sheet className="p-5">
      <h2 className="mb-3 text-[16px] font-bold">Password</h2>
      <form onSubmit={(e) => void submit(e)} className="flex max-w-sm flex-col gap-3">
        <TextField
          label="Current password"
          type="password"
          autoComplete="current-password"
          required
          value={old}
          onChange={(e) => setOld(e.target.value)}
          error={of('old')}
        />
        <TextField
          label="New password"
          hint="15 characters at least: a few words in a row."
          type="password"
          autoComplete="new-password"
          required
          value={next}
          onChange={(e) => setNext(e.target.value)}
          error={of('next')}
        />
        {failure && failure.field === undefined && (
          <p role="alert" className="font-semibold text-brick">
            {sentence(failure)}
          </p>
        )}
        <div>
          <Button tone="main" type="submit" disabled={isLoading}>
            Change the password
          </Button>
        </div>
      </form>
    </Sheet>
  );
}

function Sessions({ zone }: { zone: string }) {
  const { data, error } = useSessionsQuery(undefined, { refetchOnMountOrArgChange: true });
  const [end] = useEndSessionMutation();
  const [endOthers] = useEndOtherSessionsMutation();
  const told = async (answer: Promise<{ error?: unknown }>, words: string) => {
    const { error: failed } = await answer;
    if (failed) toast.error(sentence(failed));
    else toast.success(words);
  };
  const moment = (at: number) => (at === 0 ? 'before this was kept' : momentWords(zoneOf(zone), at));
  const sessions = data?.sessions ?? [];
  return (
    <Sheet className="p-5">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="flex-1 text-[16px] font-bold">Where you are signed in</h2>
        {sessions.length > 1 && (
          <Button onClick={() => void told(endOthers(), 'Everywhere else you are signed out.')}>
            Sign out everywhere else
          </Button>
        )}
      </div>
      {error && <p className="text-brick">{sentence(error)}</p>}
      <ul>
        {sessions.map((s) => (
          <li key={s.id} className="flex items-center gap-3 border-t border-line/60 py-2">
            <span className="flex-1">
              {agentWords(s.agent)} {s.current && <Chip tone="live">this one</Chip>}
              <span className="block text-[13px] text-ink-2">
                Last used {moment(s.seenAt)}; signed in {moment(s.createdAt)}
              </span>
            </span>
            {!s.current && (
              <Button tone="quiet" onClick={() => void told(end(s.id), 'That one is signed out.')}>
                Sign out there
              </Button>
            )}
          </li>
        ))}
      </ul>
      <p className="mt-2 text-[13px] text-ink-2">
        In real time, {zone}, also where the practice clock shows another day. A session ends by itself after 30 days.
      </p>
    </Sheet>
  );
}

/** What a user has of their own. */
export function AccountScreen() {
  const { data: me } = useMeQuery();
  if (!me) return null;
  return (
    <div className="mx-auto flex w-full max-w-3xl flex-col gap-4 p-6">
      <div>
        <h1 className="text-[24px] font-bold">{me.user.name}</h1>
        <p className="text-ink-2">
          {me.user.email}, {me.user.role} of {me.workspace.name}
        </p>
      </div>
      <Password />
      <Sessions zone={me.workspace.zone} />
    </div>
  );
}
