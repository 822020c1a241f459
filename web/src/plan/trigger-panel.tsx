import { Plus } from 'lucide-react';
import { adoptEvent, MAX_TRIGGERS, startingEvents, type SettingName, type Command, type Trigger } from '@ascenso/core';
import type { ReactNode } from 'react';
import { useSurroundings } from '../app/around.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Button } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { ConditionEditor } from '../conditions/index.ts';
import { CapSentence, EntrySentence } from './entry-panel.tsx';
import { MailsUnder } from './mails-under.tsx';
import { TriggerEditor } from './trigger-kinds.tsx';

function Part({ id, title, children }: { id?: string; title?: string; children: ReactNode }) {
  return (
    <section id={id} className="flex flex-col gap-2">
      {title && <h3 className="font-sans font-semibold">{title}</h3>}
      {children}
    </section>
  );
}

/** What starts the sequence, who may enter, what it mails under, the goal, who leaves early, and how it stands beside others. */
export function TriggerPanel() {
  const doc = useApp((s) => s.draft.doc);
  const around = useSurroundings();
  const dispatch = useAct();
  if (!doc || !around) return null;
  const { triggers } = doc;
  const set = (field: SettingName, value: unknown) => dispatch(edit([{ type: 'set', field, value }]));
  const setTrigger = (i: number, t: Trigger) => {
    const commands: Command[] = [
      { type: 'set', field: 'triggers', value: triggers.map((k, at) => (at === i ? t : k)) },
    ];
    // Whoever joins a list is mailed as somebody on it, as long as nothing else is said.
    if (doc.list === '' && t.kind === 'list' && t.what === 'joined' && t.list)
      commands.push({ type: 'set', field: 'list', value: t.list });
    // What the event brings is shown by the repeats that show nothing yet.
    const kind = t.kind === 'event' ? around.kinds.find((k) => k.name === t.event) : undefined;
    if (kind) commands.push(...adoptEvent(doc, kind));
    dispatch(edit(commands));
  };
  return (
    <div className="flex flex-col gap-5">
      <Part>
        <div className="flex flex-col gap-1 text-[15px] leading-10">
          {triggers.map((t, i) => (
            <TriggerEditor
              key={i}
              lead={i === 0 ? 'It starts when someone' : 'or when someone'}
              value={t}
              around={around}
              save={(next) => setTrigger(i, next)}
              remove={
                triggers.length > 1
                  ? () =>
                      set(
                        'triggers',
                        triggers.filter((_, at) => at !== i),
                      )
                  : undefined
              }
            />
          ))}
          <p>
            It mails <MailsUnder doc={doc} around={around} inline />.
          </p>
        </div>
        {triggers.length < MAX_TRIGGERS && (
          <Button
            tone="quiet"
            className="self-start"
            onClick={() => set('triggers', [...triggers, { kind: 'event', event: '', where: [] }])}
          >
            <Plus size={14} aria-hidden="true" />
            Or when …
          </Button>
        )}
      </Part>
      <Part title="Who may enter">
        <ConditionEditor
          value={doc.filter}
          scope="person"
          doc={doc}
          sentence={(words) => `Only somebody who ${words} may enter.`}
          none="Everyone whom the trigger brings."
          save={(c) => set('filter', c)}
        />
        <EntrySentence
          entry={doc.entry}
          events={startingEvents(triggers)}
          around={around}
          save={(e) => set('entry', e)}
        />
      </Part>
      <Part id="entrance-goal" title="Goal">
        <ConditionEditor
          value={doc.goal}
          scope="visit"
          doc={doc}
          sentence={(words) => `Whoever ${words} leaves at once.`}
          none="No goal: everyone goes to the end."
          save={(c) => set('goal', c)}
        />
      </Part>
      <Part id="entrance-exit" title="Who leaves early">
        <ConditionEditor
          value={doc.exit ?? null}
          scope="visit"
          doc={doc}
          sentence={(words) => `Whoever ${words} leaves at once, and has not reached the goal.`}
          none="Nobody, but by the goal and by the steps."
          save={(c) => set('exit', c)}
        />
      </Part>
      <Part title="What it is for">
        <SavedText
          area
          label="What it is for"
          placeholder="Brings new readers to their first kit"
          value={doc.about ?? ''}
          save={(v) => set('about', v)}
        />
      </Part>
      {doc.list !== null && (
        <Part title="Beside other sequences">
          <CapSentence cap={doc.cap} around={around} save={(c) => set('cap', c)} />
        </Part>
      )}
    </div>
  );
}
