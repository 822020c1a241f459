import type { Trigger } from '@ascenso/core';
import { useAroundQuery } from '../app/api.ts';
import { edit } from '../app/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Select } from '../ui/index.tsx';
import { ConditionEditor, FieldTests } from '../conditions/index.ts';

/** What starts the sequence, who may enter again, what it mails under, and the goal. */
export function TriggerPanel() {
  const doc = useApp((s) => s.draft.doc);
  const { data: around } = useAroundQuery();
  const dispatch = useAct();
  if (!doc || !around) return null;
  const { trigger, goal } = doc;
  const set = (field: 'trigger' | 'filter' | 'reentry' | 'list' | 'goal', value: unknown) =>
    dispatch(edit([{ type: 'set', field, value }]));
  const setTrigger = (t: Trigger) => set('trigger', t);
  const kind = trigger.kind === 'event' ? around.kinds.find((k) => k.name === trigger.event) : undefined;
  return (
    <div className="flex flex-col gap-3">
      <Select label="It starts when someone" value={trigger.kind} onChange={(e) => setTrigger(e.target.value === 'list' ? { kind: 'list', list: '' } : { kind: 'event', event: '', where: [] })}>
        <option value="list">joins a list</option>
        <option value="event">does something (an event)</option>
      </Select>
      {trigger.kind === 'list' ? (
        <Select label="Which list" value={trigger.list} onChange={(e) => setTrigger({ kind: 'list', list: e.target.value })}>
          <option value="">Choose a list …</option>
          {around.lists.map((l) => <option key={l.id} value={l.id}>{l.name}</option>)}
        </Select>
      ) : (
        <>
          <Select label="Which event" value={trigger.event} onChange={(e) => setTrigger({ kind: 'event', event: e.target.value, where: [] })}>
            <option value="">Choose an event …</option>
            {around.kinds.map((k) => <option key={k.name} value={k.name}>{k.label} ({k.name})</option>)}
          </Select>
          {kind && <FieldTests tests={trigger.where} fields={kind.fields} save={(where) => setTrigger({ ...trigger, where })} />}
        </>
      )}
      <Select label="The same person may enter" value={doc.reentry} onChange={(e) => set('reentry', e.target.value)}>
        <option value="once">once ever</option>
        <option value="after-leaving">again after leaving</option>
      </Select>
      <Select label="It mails" value={doc.list ?? ''} onChange={(e) => set('list', e.target.value || null)}>
        {around.lists.map((l) => <option key={l.id} value={l.id}>people on “{l.name}”</option>)}
        <option value="">service mail: receipts and repairs, no list needed</option>
      </Select>
      <section className="flex flex-col gap-2">
        <h3 className="font-sans font-semibold">Who may enter</h3>
        <ConditionEditor value={doc.filter ?? null} scope="person" doc={doc} sentence={(words) => `Only somebody who ${words} may enter.`} none="Everyone whom the trigger brings." save={(c) => set('filter', c)} />
      </section>
      <section className="flex flex-col gap-2">
        <h3 className="font-sans font-semibold">Goal</h3>
        <ConditionEditor value={goal} scope="visit" doc={doc} sentence={(words) => `Whoever ${words} leaves at once.`} none="No goal: everyone goes to the end." save={(c) => set('goal', c)} />
      </section>
    </div>
  ); // prettier-ignore
}
