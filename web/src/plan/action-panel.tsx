import { useMemo } from 'react';
import type { Action, ActionStep } from '@ascenso/core';
import { fieldsFor, type Surroundings } from '@ascenso/contracts';
import { useSurroundings } from '../app/around.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { LineEditor } from '../composer/editors/index.ts';
import { choicesFrom, FieldChoices } from '../composer/field-picker.tsx';
import { Choice } from '../ui/choice.tsx';
import { byLabel, byName, OneOf } from '../ui/one-of.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { NameField } from '../ui/name-field.tsx';
import { ValueField } from '../ui/value-field.tsx';
import { NumberInput } from '../ui/number-field.tsx';
const blank: Record<Action['type'], Action> = {
  'add-tag': { type: 'add-tag', tag: '' },
  'remove-tag': { type: 'remove-tag', tag: '' },
  'join-list': { type: 'join-list', list: '' },
  'leave-list': { type: 'leave-list', list: '' },
  'set-attribute': { type: 'set-attribute', key: '', value: '' },
  'add-points': { type: 'add-points', points: 10 },
  'start-sequence': { type: 'start-sequence', sequence: '' },
  'stop-sequence': { type: 'stop-sequence', sequence: '' },
  'tell-team': { type: 'tell-team', to: '', text: '{{ subscriber.email }} has got this far.' },
  'call-webhook': { type: 'call-webhook', url: '' },
};
const NAMES: [Action['type'], string][] = [
  ['add-tag', 'Adds the tag'],
  ['remove-tag', 'Removes the tag'],
  ['join-list', 'Puts them on'],
  ['leave-list', 'Takes them off'],
  ['set-attribute', 'Sets the attribute'],
  ['add-points', 'Adds points'],
  ['start-sequence', 'Starts the sequence'],
  ['stop-sequence', 'Stops the sequence'],
  ['tell-team', 'Tells the team'],
  ['call-webhook', 'Calls a webhook'],
];

interface PartsProps {
  action: Action;
  around: Surroundings;
  set: (a: Action) => void;
}

/** What the team is told: the same words and fields as in an email. */
function Note({ text, around, save }: { text: string; around: Surroundings; save: (text: string) => void }) {
  const doc = useApp((s) => s.draft.doc);
  const choices = useMemo(
    () => (doc ? choicesFrom(fieldsFor(doc, around), { subscriber: {}, event: {}, sender: {} }) : []),
    [doc, around],
  );
  return (
    <FieldChoices.Provider value={choices}>
      <LineEditor
        label="What they are told"
        part="text"
        value={text}
        placeholder="Somebody has got this far."
        save={save}
      />
    </FieldChoices.Provider>
  );
}

function Parts({ action, around, set }: PartsProps) {
  const self = useApp((s) => s.draft.id);
  switch (action.type) {
    case 'add-tag':
    case 'remove-tag':
      return (
        <span className="inline-block w-36 align-middle">
          <NameField
            label="Tag"
            value={action.tag}
            placeholder="kit-owner"
            of={around.tags}
            save={(tag) => set({ ...action, tag: tag.trim() })}
          />
        </span>
      );
    case 'join-list':
    case 'leave-list':
      return (
        <OneOf
          label="Which list"
          a="a list"
          value={action.list}
          of={byName(around.lists)}
          save={(list) => set({ ...action, list })}
          inline
        />
      );
    case 'set-attribute':
      return (
        <>
          <OneOf
            label="Which attribute"
            a="an attribute"
            value={action.key}
            of={byLabel(around.attributes)}
            save={(key) => set({ ...action, key })}
            inline
          />{' '}
          to{' '}
          <span className="inline-block w-36 align-middle">
            <ValueField
              label="Value"
              hideLabel
              kind={around.attributes.find((a) => a.key === action.key) ?? { type: 'text', options: [] }}
              value={action.value}
              save={(v) => set({ ...action, value: Array.isArray(v) ? v.join(', ') : (v as typeof action.value) })}
            />
          </span>
        </>
      );
    case 'add-points':
      return (
        <NumberInput
          label="How many points"
          value={action.points}
          save={(points) => set({ ...action, points })}
          className="inline-block !w-24"
        />
      );
    case 'start-sequence':
    case 'stop-sequence':
      return (
        <>
          <OneOf
            label="Which sequence"
            a="a sequence"
            value={action.sequence}
            of={byName(around.sequences.filter((s) => s.id !== self))}
            save={(sequence) => set({ ...action, sequence })}
            inline
          />
          <span className="block text-[13px] leading-normal text-ink-2">
            {action.type === 'start-sequence'
              ? 'They enter it beside this one, if its own rules let them. It has to be live.'
              : 'If they are inside, they leave it, and what is queued does not go out.'}
          </span>
        </>
      );
    case 'tell-team':
      return (
        <>
          <span className="inline-block w-60 align-middle">
            <SavedText
              label="Whom it tells"
              value={action.to}
              placeholder="tomasz@foldwell.example"
              save={(to) => set({ ...action, to: to.trim() })}
            />
          </span>
          <span className="mt-2 block leading-normal">
            <Note text={action.text} around={around} save={(text) => set({ ...action, text })} />
          </span>
          <span className="mt-1 block text-[13px] leading-normal text-ink-2">
            An email in plain text, with a link to the person’s page. Merge fields are filled.
          </span>
        </>
      );
    case 'call-webhook':
      return (
        <>
          <span className="mt-1 block leading-normal">
            <SavedText
              label="Address to call"
              value={action.url}
              placeholder="https://foldwell.example/hooks/ascenso"
              save={(url) => set({ ...action, url: url.trim() })}
            />
          </span>
          <span className="mt-1 block text-[13px] leading-normal text-ink-2">
            A signed POST with the person and the event, tried again for a day and a half if it fails. The secret that
            proves the signature stands under People, Events and keys.
          </span>
        </>
      );
  }
}

/** What an action does, as one sentence. */
export function ActionPanel({ step }: { step: ActionStep }) {
  const around = useSurroundings();
  const dispatch = useAct();
  const { action } = step;
  const set = (value: Action) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'action', value }]));
  const choose = (type: Action['type']) =>
    set('tag' in action && 'tag' in blank[type] ? { ...blank[type], tag: action.tag } : blank[type]);
  if (!around) return null;
  return (
    <div className="text-[15px] leading-9">
      <Choice
        label="What it does"
        hideLabel
        value={action.type}
        choose={(v) => choose(v)}
        inline
        of={NAMES.map(([type, words]) => ({ value: type, label: words }))}
      />{' '}
      <Parts action={action} around={around} set={set} />
    </div>
  );
}
