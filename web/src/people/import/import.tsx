import { ArrowLeft, Download } from 'lucide-react';
import { useEffect, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { ImportAnswer } from '@ascenso/contracts';
import { momentWords, NO, readNumber, WRITTEN, YES, zoneOf } from '@ascenso/core';
import { useSurroundings } from '../../app/around.ts';
import { sentence, useMeQuery, type Failure } from '../../app/api.ts';
import { useSequencesQuery } from '../../sequences/endpoints.ts';
import { useAct } from '../../app/store.ts';
import { Button, buttonClass, number, Sheet } from '../../ui/index.tsx';
import { Progress } from '../../ui/progress.tsx';
import { Columns } from './columns.tsx';
import {
  changing,
  importsApi,
  isUnderWay,
  useCheckImportMutation,
  useEndImportMutation,
  useImportQuery,
  useRunImportMutation,
} from './endpoints.ts';
import { Doing, Writing, type Planned } from './reading.tsx';

const POLL_MS = 1_000;

const firstPlan = (told: ImportAnswer): Planned => ({
  columns: told.guess?.columns.map((c) => c.column) ?? [],
  heading: told.guess?.heading ?? true,
  days: told.guess?.days ?? 'ymd',
  decimal: told.guess ? told.guess.decimal : '.',
  yes: YES,
  no: NO,
  known: 'fill',
  lists: [],
  tags: [],
  consent: '',
  starts: [],
});

/** A message that stands beside its field needs not name it. */
const bare = (message: string) => message.replace(/^[\w.]+: /, '');

/** Says what the columns are and what is done, until it is checked. */
function Setting({ told }: { told: ImportAnswer }) {
  const around = useSurroundings();
  const [plan, setPlan] = useState<Planned>(told.plan ?? firstPlan(told));
  const [check, { error, isLoading }] = useCheckImportMutation();
  const problem = error as Failure | undefined;
  const set = <K extends keyof Planned>(key: K, value: Planned[K]) => setPlan((p) => ({ ...p, [key]: value }));
  const [asked, setAsked] = useState(false);
  // Only what becomes a number has to be read one way.
  const either =
    told.guess?.columns.find(
      (g, i) =>
        g.either !== null &&
        around?.attributes.some((a) => {
          const becomes = plan.columns[i];
          return becomes?.to === 'attribute' && becomes.key === a.key && a.type === 'number';
        }),
    )?.either ?? null;
  const begin = () => {
    const decimal = plan.decimal ?? (either === null ? '.' : null);
    setAsked(decimal === null);
    if (decimal !== null) void check({ id: told.id, plan: { ...plan, decimal } });
  };
  if (!told.guess || !around) return null;
  return (
    <>
      <Sheet className="overflow-x-auto">
        <Columns
          guess={told.guess}
          attributes={around.attributes}
          columns={plan.columns}
          save={(columns) => set('columns', columns)}
        />
        {problem?.field === 'columns' && (
          <p role="alert" className="px-4 pb-3 font-semibold text-brick">
            {bare(problem.message)}
          </p>
        )}
      </Sheet>
      <Sheet className="flex flex-col gap-3 p-5">
        <h2 className="font-head text-[16px] font-bold">How it is written</h2>
        <Writing plan={plan} set={set} either={either} unsaid={asked} />
      </Sheet>
      <Sheet className="flex flex-col gap-3 p-5">
        <h2 className="font-head text-[16px] font-bold">What is done with them</h2>
        <Doing
          plan={plan}
          set={set}
          lists={around.lists}
          tags={around.tags}
          error={problem?.field === 'consent' ? bare(problem.message) : undefined}
        />
      </Sheet>
      {problem && problem.field !== 'columns' && problem.field !== 'consent' && (
        <p role="alert" className="font-semibold text-brick">
          {problem.message}
        </p>
      )}
      <div className="flex items-center justify-end gap-3">
        <p className="text-ink-2">Checking reads the whole file and changes nobody.</p>
        <Button tone="main" disabled={isLoading} onClick={begin}>
          Check the file
        </Button>
      </div>
    </>
  );
}

function Figure({ n, words }: { n: number; words: string }) {
  return (
    <div>
      <p className="font-head text-[24px] font-bold tabular-nums">{number(n)}</p>
      <p className="text-ink-2">{words}</p>
    </div>
  );
}

function Faults({ told }: { told: ImportAnswer }) {
  if (!told.counts || told.counts.faults === 0 || told.faults.length === 0) return null;
  const rest = told.counts.faults - told.faults.length;
  return (
    <Sheet className="p-5">
      <div className="mb-2 flex items-center justify-between gap-3">
        <h2 className="font-head text-[16px] font-bold">
          {number(told.counts.faults)} {told.counts.faults === 1 ? 'row is' : 'rows are'} left out
        </h2>
        <a className={buttonClass()} href={`/api/imports/${told.id}/faults.csv`} download>
          <Download size={15} aria-hidden="true" />
          As a file
        </a>
      </div>
      <ul className="max-h-56 overflow-y-auto text-[13px]" tabIndex={0} aria-label="Rows that are left out">
        {told.faults.map((f) => (
          <li key={f.line}>
            Line {number(f.line)}: {f.why}
          </li>
        ))}
        {rest > 0 && <li>and {number(rest)} more</li>}
      </ul>
    </Sheet>
  );
}

/** What would come of it, before anybody comes in. */
function Told({ told, back }: { told: ImportAnswer; back: () => void }) {
  const { data } = useSequencesQuery();
  const [starts, setStarts] = useState<string[]>([]);
  const [run, { error, isLoading }] = useRunImportMutation();
  const { counts } = told;
  if (!counts) return null;
  const named = Object.entries(counts.starts).map(([id, n]) => ({
    id,
    n,
    name: data?.sequences.find((s) => s.id === id)?.name ?? '…',
  }));
  const people = counts.fresh + counts.changed;
  return (
    <>
      <Sheet className="p-5">
        <div className="grid grid-cols-2 gap-4 md:grid-cols-4">
          <Figure n={counts.fresh} words="are new" />
          <Figure n={counts.changed} words="are known, and change" />
          <Figure n={counts.same} words="are known, and stay as they are" />
          <Figure n={counts.faults} words="rows cannot be read, and are left out" />
        </div>
        {counts.suppressed > 0 && (
          <p className="mt-3 text-ink-2">
            {number(counts.suppressed)} of them get no mail: they unsubscribed, complained, or their address bounced.
            That stays so.
          </p>
        )}
      </Sheet>
      {counts.eitherAs && told.plan && (
        <p className="text-ink-2">
          Numbers are read {WRITTEN[told.plan.decimal]}: “{counts.eitherAs}” is{' '}
          {number(readNumber(counts.eitherAs, told.plan.decimal) ?? 0)}.{' '}
          {counts.either === 1 ? 'One number' : `${number(counts.either)} numbers`} would be another one the other way.
        </p>
      )}
      <Faults told={told} />
      {named.length > 0 && (
        <Sheet className="p-5">
          <fieldset className="flex flex-col gap-2">
            <legend className="mb-1 font-head text-[16px] font-bold">
              Nobody starts a sequence, unless you tick it here
            </legend>
            {named.map((s) => (
              <label key={s.id} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={starts.includes(s.id)}
                  onChange={(e) => setStarts(e.target.checked ? [...starts, s.id] : starts.filter((id) => id !== s.id))}
                />
                {number(s.n)} {s.n === 1 ? 'person starts' : 'people start'} “{s.name}”, as far as its own rules let
                them
              </label>
            ))}
          </fieldset>
        </Sheet>
      )}
      {named.length === 0 && people > 0 && (
        <p className="text-ink-2">No sequence that is live begins with what this file does: nobody starts one by it.</p>
      )}
      {error && (
        <p role="alert" className="font-semibold text-brick">
          {sentence(error)}
        </p>
      )}
      <div className="flex items-center justify-end gap-3">
        <p className="text-ink-2">For a week you can undo it as a whole.</p>
        <Button onClick={back}>Back to the columns</Button>
        <Button tone="main" disabled={isLoading || people === 0} onClick={() => void run({ id: told.id, starts })}>
          {people === 0 ? 'Nobody to bring in' : `Bring in ${number(people)} ${people === 1 ? 'person' : 'people'}`}
        </Button>
      </div>
    </>
  );
}

const UNDER_WAY = {
  checking: 'Reading the file',
  running: 'Bringing them in',
  undoing: 'Taking them out again',
} as const;

/** What came of it. */
function Ended({ told, zoneName }: { told: ImportAnswer; zoneName: string }) {
  const [end, { isLoading }] = useEndImportMutation();
  const { counts } = told;
  const undo = async () => {
    const answer = await end({ id: told.id, how: 'undo' });
    if (answer.error) toast.error(sentence(answer.error));
  };
  return (
    <>
      <Sheet className="flex flex-col gap-3 p-5">
        {told.problem && <p className="font-semibold text-brick">{told.problem}</p>}
        {told.state === 'undone' && (
          <p>
            It was undone: whoever was new is gone, and everybody else is as before.{' '}
            {told.plan?.columns.some((c) => c.to === 'mail') &&
              'Whom the file had ended mail for gets none, as it was. '}
            {counts &&
              counts.kept > 0 &&
              `${number(counts.kept)} stayed, since they have begun a sequence, got an email or done something meanwhile.`}
          </p>
        )}
        {told.state === 'done' && counts && (
          <div className="grid grid-cols-2 gap-4 md:grid-cols-4">
            <Figure n={counts.fresh} words="came in" />
            <Figure n={counts.changed} words="were known, and changed" />
            <Figure n={counts.started} words={counts.started === 1 ? 'started a sequence' : 'started sequences'} />
            <Figure n={counts.faults} words="rows were left out" />
          </div>
        )}
        {told.undoUntil !== null && (
          <div className="flex items-center justify-end gap-3">
            <p className="text-ink-2">It can be undone until {momentWords(zoneOf(zoneName), told.undoUntil)}.</p>
            <Button tone="danger" disabled={isLoading} onClick={() => void undo()}>
              Undo this import
            </Button>
          </div>
        )}
      </Sheet>
      <Faults told={told} />
    </>
  );
}

/** One file of people: from its columns to its undo. */
export function ImportScreen() {
  const { id = '' } = useParams();
  const [working, setWorking] = useState(false);
  const [again, setAgain] = useState(false);
  const { data: told, error } = useImportQuery(id, { pollingInterval: working ? POLL_MS : 0 });
  const { data: me } = useMeQuery();
  const [end] = useEndImportMutation();
  const act = useAct();
  const navigate = useNavigate();
  const state = told?.state;
  useEffect(() => {
    setWorking(state !== undefined && isUnderWay(state));
    if (state === 'checking') setAgain(false);
    // What came in, or went again, is seen everywhere.
    if (state === 'done' || state === 'undone') act(importsApi.util.invalidateTags([...changing]));
  }, [state, act]);
  const cancel = async () => {
    const answer = await end({ id, how: 'cancel' });
    if (answer.error) toast.error(sentence(answer.error));
    else if (state !== 'running') await navigate('/people/import');
  };
  return (
    <div className="mx-auto flex w-full max-w-5xl flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <Link to="/people/import" aria-label="All imports" className="rounded-control p-1 text-ink-2 hover:bg-sheet">
          <ArrowLeft size={18} aria-hidden="true" />
        </Link>
        <h1 className="flex-1 text-[24px] font-bold">{told?.name ?? 'A file of people'}</h1>
        {(state === 'uploaded' || state === 'checked') && (
          <Button tone="quiet" onClick={() => void cancel()}>
            Throw this file away
          </Button>
        )}
      </div>
      {error && <p className="text-brick">{sentence(error)}</p>}
      {told && isUnderWay(told.state) && (
        <Sheet className="p-5">
          <Progress
            words={UNDER_WAY[told.state]}
            done={told.done}
            total={told.total}
            {...(told.state === 'undoing'
              ? {}
              : {
                  cancel: () => void cancel(),
                  cancelWords: told.state === 'running' ? 'Cancel, and take out who is in' : 'Cancel',
                })}
          />
        </Sheet>
      )}
      {told && (told.state === 'uploaded' || (told.state === 'checked' && again)) && <Setting key={id} told={told} />}
      {told && told.state === 'checked' && !again && <Told told={told} back={() => setAgain(true)} />}
      {told && (told.state === 'done' || told.state === 'undone' || told.state === 'failed') && (
        <Ended told={told} zoneName={me?.workspace.zone ?? 'UTC'} />
      )}
      {told?.state === 'uploading' && (
        <p className="text-ink-2">It is still on its way, or broke off. Choose it again if nothing moves.</p>
      )}
      {told?.state === 'cancelled' && (
        <p className="text-ink-2">This file was thrown away. Choose it again to bring it in.</p>
      )}
    </div>
  );
}
