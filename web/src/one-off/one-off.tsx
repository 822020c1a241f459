import { Mail, Send } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Link, Navigate, useParams, useSearchParams } from 'react-router';
import { emailSteps, type EmailStep, type Sequence, type Trigger } from '@ascenso/core';
import type { SequenceAnswer, Surroundings } from '@ascenso/contracts';
import { useSurroundings } from '../app/around.ts';
import { sentence } from '../app/api.ts';
import { useAct, useApp } from '../app/store.ts';
import { useFindings } from '../checking/use-findings.ts';
import { ComposerContext } from '../composer/context.ts';
import { Rendering } from '../composer/rendering.tsx';
import { ComposerDialogs, type Opened } from '../composer/dialogs.tsx';
import { LineEditor } from '../composer/editors/index.ts';
import { FieldChoices } from '../composer/field-picker.tsx';
import { Preview } from '../composer/previews.tsx';
import { ReaderBar } from '../composer/reader.tsx';
import { edit } from '../drafts/draft.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { CapSentence, GraceSentence } from '../plan/entry-panel.tsx';
import { Makes } from '../plan/email-parts.tsx';
import { useWhomQuery } from '../plan/endpoints.ts';
import { toFix } from '../plan/findings.tsx';
import { MomentParts } from '../plan/moment-parts.tsx';
import { Button, buttonClass } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { ViewTabs } from '../ui/tabs.tsx';
import { useDesk } from './desk.ts';
import { Running } from './running.tsx';
import { TestPart, testOf } from './test-part.tsx';
import { WhomPart } from './whom.tsx';

function Part({ title, note, children }: { title: string; note?: string; children: ReactNode }) {
  return (
    <section
      aria-label={title}
      className="grid gap-3 border-t border-line py-4 first:border-t-0 md:grid-cols-[9rem_minmax(0,1fr)] md:gap-5"
    >
      <div>
        <h2 className="text-[15px] font-bold">{title}</h2>
        {note && <p className="text-[12px] text-ink-2">{note}</p>}
      </div>
      <div className="flex flex-col gap-3">{children}</div>
    </section>
  );
}

interface DeskProps {
  about: SequenceAnswer;
  doc: Sequence;
  step: EmailStep;
  around: Surroundings;
  /** Shows another version of the email. */
  show: (step: string) => void;
}

/** What stands in the inbox: who it is from, subject and preview text. */
function InboxPart({ step, around }: Pick<DeskProps, 'step' | 'around'>) {
  const dispatch = useAct();
  const set = (field: 'sender' | 'subject' | 'preview', value: string) =>
    void dispatch(edit([{ type: 'email.set', step: step.id, field, value }]));
  return (
    <>
      <div className="flex flex-col gap-3 md:flex-row md:items-start">
        <LineEditor
          emoji
          part="subject"
          label="Subject"
          value={step.email.subject}
          placeholder="What they see first"
          save={(v) => set('subject', v)}
        />
        <div className="shrink-0 md:w-52">
          <Choice
            part="sender"
            label="From"
            value={step.email.sender}
            choose={(v) => set('sender', v)}
            of={[
              { value: '', label: `${around.senders.find((s) => s.isDefault)?.name ?? 'No sender yet'} (default)` },
              ...around.senders.filter((s) => !s.isDefault).map((s) => ({ value: s.id, label: s.name })),
            ]}
          />
        </div>
      </div>
      <LineEditor
        emoji
        part="preview"
        label="Preview text"
        value={step.email.preview}
        placeholder="Taken from the first text of the email"
        save={(v) => set('preview', v)}
      />
    </>
  );
}

function Desk({ about, doc, step, around, show }: DeskProps) {
  const dispatch = useAct();
  const { composer, reader, choices } = useDesk(about.id, doc, step, around);
  const [opened, setOpened] = useState<Opened | null>(null);
  const { revision, unsaved } = useApp((s) => s.draft);
  // A number that belongs to an older draft would be a wrong one.
  const { currentData, error } = useWhomQuery({ id: about.id, revision }, { skip: unsaved > 0 });
  const whom = unsaved > 0 ? undefined : currentData;
  const findings = useFindings(about.id);
  const at = doc.triggers.findIndex((t) => t.kind === 'moment');
  const moment = doc.triggers[at];
  const trigger = moment?.kind === 'moment' ? moment : undefined;
  const versions = testOf(doc, step)?.arms.flatMap((a) => emailSteps(a).slice(0, 1)) ?? [step];
  const others = emailSteps(doc).filter((e) => !versions.some((v) => v.id === e.id));
  const setTrigger = (t: Trigger) =>
    dispatch(edit([{ type: 'set', field: 'triggers', value: doc.triggers.map((known, i) => (i === at ? t : known)) }]));
  const sender = around.senders.find((s) => s.id === step.email.sender) ?? around.senders.find((s) => s.isDefault);
  const composerPath = `/sequences/${about.id}/emails/${step.id}`;
  return (
    <ComposerContext.Provider value={composer}>
      <Rendering email={step.email} around={around} reading={reader.reading} service={doc.list === null}>
        <FieldChoices.Provider value={choices}>
          <div className="flex min-h-0 flex-1 flex-col overflow-y-auto lg:flex-row lg:overflow-hidden">
            <div className="min-w-0 flex-1 px-4 py-4 lg:overflow-y-auto lg:px-6">
              <div className="mx-auto flex max-w-[820px] flex-col gap-3">
                <Running about={about} />
                <div className="rounded-sheet border border-line bg-sheet px-5">
                  <Part title="In the inbox">
                    {versions.length > 1 && (
                      <ViewTabs
                        small
                        name="Which version"
                        value={step.id}
                        views={versions.map((v, i) => [v.id, `${String.fromCharCode(65 + i)} · ${v.name}`] as const)}
                        choose={show}
                      />
                    )}
                    <InboxPart key={step.id} step={step} around={around} />
                  </Part>
                  <Part title="Whom">
                    <WhomPart
                      doc={doc}
                      around={around}
                      whom={whom}
                      problem={error && unsaved === 0 ? sentence(error) : null}
                      trigger={trigger}
                      gone={about.letInAt !== null}
                    />
                  </Part>
                  <Part title="What they read">
                    <div className="flex flex-wrap items-center gap-2">
                      <Link className={buttonClass('main')} to={composerPath}>
                        <Mail size={15} aria-hidden="true" />
                        Write it
                      </Link>
                      <Button onClick={() => setOpened('templates')}>Take a template</Button>
                      <span className="text-ink-2">
                        It makes{' '}
                        <Makes
                          step={step}
                          save={(offer) =>
                            dispatch(edit([{ type: 'email.set', step: step.id, field: 'offer', value: offer }]))
                          }
                        />
                        .
                      </span>
                    </div>
                    {others.length > 0 && (
                      <p className="text-ink-2">
                        {others.length === 1 ? 'Another email' : `${others.length} more emails`} go out with it, by the{' '}
                        <Link className="underline" to={`/sequences/${about.id}/plan`}>
                          plan
                        </Link>
                        : {others.map((e) => `“${e.name}”`).join(', ')}.
                      </p>
                    )}
                  </Part>
                  <Part title="Looked through">
                    <div className="flex flex-wrap items-center gap-2">
                      <Button tone={findings?.length ? 'fix' : 'plain'} onClick={() => setOpened('checks')}>
                        {toFix(findings?.filter((f) => f.place.step === step.id))}
                      </Button>
                      <Button onClick={() => setOpened('gallery')}>Five people at once</Button>
                      <Button onClick={() => setOpened('review')}>Review by a colleague</Button>
                      <Button onClick={() => setOpened('test')}>
                        <Send size={15} aria-hidden="true" />
                        Send a test
                      </Button>
                    </div>
                  </Part>
                  <Part title="Two versions">
                    <TestPart doc={doc} step={step} show={show} />
                  </Part>
                  <Part title="When">
                    {trigger && <MomentParts value={trigger} save={setTrigger} />}
                    {trigger?.when === 'published' && <GraceSentence minutes={around.graceMinutes} />}
                    {doc.list !== null && (
                      <CapSentence
                        cap={doc.cap}
                        around={around}
                        save={(cap) => dispatch(edit([{ type: 'set', field: 'cap', value: cap }]))}
                      />
                    )}
                  </Part>
                </div>
              </div>
            </div>
            <aside
              aria-label="Preview"
              className="flex shrink-0 flex-col border-t border-line bg-sheet lg:w-[304px] lg:overflow-y-auto lg:border-t-0 lg:border-l"
            >
              <div className="border-b border-line px-3 py-2">
                <ReaderBar reader={reader} around={around} />
              </div>
              <Preview
                sender={sender?.name ?? 'No sender'}
                openDesktop={() => setOpened('gallery')}
                openGallery={() => setOpened('gallery')}
              />
            </aside>
          </div>
          <ComposerDialogs
            opened={opened}
            close={() => setOpened(null)}
            findings={findings?.filter((f) => f.place.step === step.id) ?? []}
          />
        </FieldChoices.Provider>
      </Rendering>
    </ComposerContext.Provider>
  );
}

/** A one-off send in the order in which it is made: in the inbox, whom, what they read, looked through, when. */
export function OneOffView() {
  const id = useParams().id as string;
  const [params, setParams] = useSearchParams();
  const doc = useApp((s) => s.draft.doc);
  const around = useSurroundings();
  const { data: about } = useSequenceQuery(id);
  const select = params.get('select');
  const emails = doc ? emailSteps(doc) : [];
  const step = emails.find((e) => e.id === params.get('email')) ?? emails[0];
  if (!doc || !around || !about) return null;
  // A step that checks lead to, other than how it starts, stands in the plan; so does all where there is no email.
  if (!step || (select !== null && select !== 'trigger'))
    return <Navigate replace to={`/sequences/${id}/plan${select ? `?select=${select}` : ''}`} />;
  return <Desk about={about} doc={doc} step={step} around={around} show={(email) => setParams({ email })} />;
}
