import { ArrowLeft, Copy, ExternalLink } from 'lucide-react';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import type { FormAnswer, Surroundings } from '@ascenso/contracts';
import { confirmationSubjects, type SignUpForm } from '@ascenso/core';
import { useAround } from '../../app/around.ts';
import { sentence, type Failure } from '../../app/api.ts';
import { FileChoice } from '../../composer/file-choice.tsx';
import { ListPicker } from '../../people/list-picker.tsx';
import { Choice } from '../../ui/choice.tsx';
import { Button, buttonClass, Chip, number, Sheet } from '../../ui/index.tsx';
import { languageChoices } from '../../ui/languages.ts';
import { SavedText } from '../../ui/saved-text.tsx';
import { useFormQuery, useSaveFormMutation, useSetFormStatusMutation, useSetSubjectMutation } from './endpoints.ts';
import { Fields } from './fields.tsx';
import { FormChip } from './forms.tsx';

/** Sets a part of the form. True, as whoever puts a file into it wants to know. */
type Set = <K extends keyof SignUpForm>(key: K, value: SignUpForm[K] | ((now: SignUpForm[K]) => SignUpForm[K])) => true;

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Sheet className="flex flex-col gap-3 p-5">
      <h2 className="font-head text-[16px] font-bold">{title}</h2>
      {children}
    </Sheet>
  );
}

function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div>
      <p className="mb-0.5 text-[12px] text-ink-2">{label}</p>
      {children}
    </div>
  );
}

function Words({ form, set }: { form: SignUpForm; set: Set }) {
  return (
    <Part title="Its words">
      <Labelled label="Title">
        <SavedText label="Title" value={form.title} save={(v) => set('title', v)} />
      </Labelled>
      <Labelled label="A few words below it">
        <SavedText label="A few words below it" area value={form.intro} save={(v) => set('intro', v)} />
      </Labelled>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="On the button">
          <SavedText label="On the button" value={form.button} save={(v) => set('button', v)} />
        </Labelled>
        <Choice
          label="What it says by itself is in"
          value={form.language}
          choose={(v) => set('language', v)}
          of={languageChoices.map((l) => ({ value: l.tag, label: l.name }))}
        />
      </div>
      <Labelled label="What they agree to, kept with each of them in these words">
        <SavedText label="What they agree to" area value={form.consent} save={(v) => set('consent', v)} />
      </Labelled>
    </Part>
  );
}

function After({ form, set, around }: { form: SignUpForm; set: Set; around: Pick<Surroundings, 'files'> }) {
  const { after } = form;
  return (
    <Part title="Once they have confirmed">
      <Choice
        label="They see"
        value={after.kind}
        choose={(kind) =>
          set('after', kind === 'page' ? { kind, address: 'https://' } : { kind, title: '', text: '', file: '' })
        }
        of={[
          { value: 'words', label: 'a page of ours, with a file to fetch if there is one' },
          { value: 'page', label: 'a page of your own' },
        ]}
      />
      {after.kind === 'page' ? (
        <Labelled label="Its address">
          <SavedText
            label="Address of the page"
            value={after.address}
            save={(address) => set('after', { ...after, address })}
          />
        </Labelled>
      ) : (
        <>
          <Labelled label="Title of that page">
            <SavedText
              label="Title of that page"
              value={after.title}
              save={(title) => set('after', { ...after, title })}
            />
          </Labelled>
          <Labelled label="Its words">
            <SavedText label="Its words" area value={after.text} save={(text) => set('after', { ...after, text })} />
          </Labelled>
          <FileChoice
            files={around.files}
            label="The file that was promised"
            value={after.file}
            images={false}
            here
            choose={(file) => set('after', (now) => (now.kind === 'words' ? { ...now, file } : now))}
          />
        </>
      )}
    </Part>
  );
}

function Confirmation({ form }: { form: FormAnswer }) {
  const live = form.sequenceStatus === 'live';
  const [setSubject] = useSetSubjectMutation();
  return (
    <Part title="The email that asks for their yes">
      <p>
        One email of service mail, with one button. It goes out as soon as the form is sent, once in ten minutes at
        most.{' '}
        <Chip tone={live ? 'live' : 'draft'}>
          {live ? 'Live' : form.sequenceStatus === 'draft' ? 'Draft' : 'Paused'}
        </Chip>
      </p>
      <Choice
        label="Its subject"
        value={form.subject}
        choose={(subject) => void setSubject({ id: form.id, subject })}
        of={[...new Set([form.subject, ...confirmationSubjects(form.form.language, form.form.name)])].map((s) => ({
          value: s,
          label: s || 'none yet',
        }))}
      />
      {live && (
        <p className="text-ink-2">It goes out as it was published: publish its sequence for other words to count.</p>
      )}
      <div className="flex gap-2">
        {form.step && (
          <Link className={buttonClass()} to={`/sequences/${form.sequence}/emails/${form.step}`}>
            Write it
          </Link>
        )}
        <Link className={buttonClass('quiet')} to={`/sequences/${form.sequence}`}>
          Its sequence
        </Link>
      </div>
    </Part>
  );
}

function OwnPage({ snippet }: { snippet: string }) {
  const copy = () =>
    navigator.clipboard.writeText(snippet).then(
      () => toast.success('Copied.'),
      () => toast.error('Mark the lines and copy them: the browser does not let us.'),
    );
  return (
    <Part title="On a page of your own">
      <p className="text-ink-2">
        Plain HTML that you style as you like. It works without a script; with it, the answer stands in its place.
      </p>
      <textarea
        readOnly
        aria-label="HTML for a page of your own"
        value={snippet}
        rows={6}
        className="w-full rounded-control border border-line bg-paper-2 p-2 font-mono text-[12px]"
      />
      <Button className="self-start" onClick={() => void copy()}>
        <Copy size={15} aria-hidden="true" />
        Copy
      </Button>
    </Part>
  );
}

/** One form: what it asks, its words, and what comes after, beside how it looks on a phone. */
export function FormScreen() {
  const id = useParams().id as string;
  // Another form is another screen: what is written of one never shows, or is saved, under the address of another.
  return <FormOf key={id} id={id} />;
}

function FormOf({ id }: { id: string }) {
  const { data, error } = useFormQuery(id);
  const around = useAround(['files', 'lists', 'attributes', 'tags']);
  const [save, { error: refused }] = useSaveFormMutation();
  const [setStatus, { isLoading }] = useSetFormStatusMutation();
  const [form, setForm] = useState<SignUpForm | null>(null);
  // What has been set last, for what was waited for meanwhile.
  const latest = useRef<SignUpForm | null>(null);
  const problem = refused as Failure | undefined;
  useEffect(() => {
    if (data) setForm((known) => known ?? data.form);
  }, [data]);
  if (error) return <p className="p-8 text-brick">{sentence(error)}</p>;
  if (!data || !form || !around) return <p className="p-8 text-ink-2">Opening the form …</p>;
  const set: Set = (key, value) => {
    const now = latest.current ?? form;
    const next = { ...now, [key]: typeof value === 'function' ? value(now[key]) : value };
    latest.current = next;
    setForm(next);
    void save({ id, form: next });
    return true;
  };
  const open = async (status: 'open' | 'closed') => {
    const answer = await setStatus({ id, status });
    if (answer.error) toast.error(sentence(answer.error));
    else toast.success(status === 'open' ? 'It is open: whoever has its address can sign up.' : 'It is closed.');
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex items-center gap-3 border-b border-line bg-sheet px-6 py-3">
        <Link to="/library/forms" aria-label="All forms" className="rounded-control p-1 text-ink-2 hover:bg-paper">
          <ArrowLeft size={18} aria-hidden="true" />
        </Link>
        <h1 className="sr-only">{form.name}</h1>
        <span className="w-72">
          <SavedText label="Name of the form" value={form.name} save={(v) => v.trim() && set('name', v)} />
        </span>
        <FormChip status={data.status} />
        <p className="flex-1 text-ink-2">
          {number(data.asked)} asked, {number(data.confirmed)} confirmed
        </p>
        {problem ? (
          <p role="alert" className="max-w-md font-semibold text-brick">
            Not saved: {problem.message}
          </p>
        ) : (
          <p className="text-ink-2">Saved</p>
        )}
        {data.status === 'open' && (
          <a className={buttonClass()} href={data.address} target="_blank" rel="noreferrer">
            <ExternalLink size={15} aria-hidden="true" />
            Walk it from outside
          </a>
        )}
        {data.status === 'open' ? (
          <Button onClick={() => void open('closed')}>Close it</Button>
        ) : (
          <Button tone="main" disabled={isLoading} onClick={() => void open('open')}>
            Open this form
          </Button>
        )}
      </div>
      <div className="flex min-h-0 flex-1 gap-5 overflow-auto p-6">
        <div className="flex min-w-0 flex-1 flex-col gap-4">
          <Words form={form} set={set} />
          <Part title="What it asks for">
            <Fields fields={form.fields} of={around} save={(fields) => set('fields', fields)} />
          </Part>
          <Part title="Where they go">
            <Labelled label="By confirming they join">
              <ListPicker chosen={form.lists} all={around.lists} save={(lists) => set('lists', lists)} />
            </Labelled>
            <p className="leading-9">
              Whoever does not confirm is forgotten after{' '}
              <Choice
                hideLabel
                inline
                label="Forgotten after"
                value={form.forget}
                choose={(v) => set('forget', v)}
                of={[1, 3, 7, 14, 30, 60, 90].map((n) => ({ value: n, label: n === 1 ? 'a day' : `${n} days` }))}
              />
              .
            </p>
          </Part>
          <After form={form} set={set} around={around} />
          <Confirmation form={data} />
          <OwnPage snippet={data.snippet} />
        </div>
        <div className="sticky top-0 w-[390px] shrink-0 self-start">
          <p className="mb-1 text-[12px] text-ink-2">As it looks on a phone</p>
          <iframe
            key={data.version}
            title="The form on a phone"
            src={`/form/${id}?preview`}
            sandbox=""
            className="h-[640px] w-full rounded-sheet border border-line bg-white"
          />
        </div>
      </div>
    </div>
  );
}
