import { useState, type ReactNode } from 'react';
import type { Bulk, Surroundings, Who } from '@ascenso/contracts';
import type { Value } from '@ascenso/core';
import { type Failure } from '../app/api.ts';
import { useSequencesQuery } from '../sequences/endpoints.ts';
import { Choice } from '../ui/choice.tsx';
import { ActionMenu, Button, buttonClass, Dialog, Field, number, TextField } from '../ui/index.tsx';
import { NameField } from '../ui/name-field.tsx';
import { ValueField } from '../ui/value-field.tsx';
import { useUndo } from '../ui/use-undo.ts';
import { WhatComes } from '../plan/foreseen.tsx';
import { MANY_CHANGE, useDoManyMutation } from './people-endpoints.ts';

const KINDS = ['tag', 'untag', 'list', 'attribute', 'sequence', 'erase'] as const;
type Kind = (typeof KINDS)[number];

const CALLED: Record<Kind, string> = {
  tag: 'Add a tag',
  untag: 'Take a tag off',
  list: 'Put them on a list',
  attribute: 'Set an attribute',
  sequence: 'Add them to a sequence',
  erase: 'Erase them',
};

const people = (n: number) => `${number(n)} ${n === 1 ? 'person' : 'people'}`;

/** The parts of what is done, as far as it has any. `put` is told what is to be done, or null while something is missing. */
function Parts({
  kind,
  around,
  put,
  count,
}: {
  kind: Kind;
  around: Pick<Surroundings, 'attributes' | 'lists' | 'tags'>;
  put: (what: Bulk | null) => void;
  count: number;
}): ReactNode {
  const [value, setValue] = useState('');
  const [key, setKey] = useState('');
  const [to, setTo] = useState<Value>(null);
  const { data } = useSequencesQuery();
  const attribute = around.attributes.find((a) => a.key === key);
  switch (kind) {
    case 'tag':
    case 'untag':
      return (
        <Field label="Tag">
          {(id) => (
            <NameField
              id={id}
              label="Tag"
              value={value}
              of={around.tags}
              save={(tag) => {
                setValue(tag);
                put(tag ? { kind, tag } : null);
              }}
            />
          )}
        </Field>
      );
    case 'list':
      return (
        <Choice
          label="List"
          none="Choose a list …"
          value={value}
          choose={(list) => {
            setValue(list);
            put({ kind, list });
          }}
          of={around.lists.map((l) => ({ value: l.id, label: l.name }))}
        />
      );
    case 'attribute':
      return (
        <>
          <Choice
            label="Attribute"
            none="Choose an attribute …"
            value={key}
            choose={(k) => {
              setKey(k);
              setTo(null);
              put({ kind, key: k, value: null });
            }}
            of={around.attributes.map((a) => ({ value: a.key, label: a.label }))}
          />
          {attribute && (
            <ValueField
              label="Becomes"
              kind={attribute}
              value={to}
              save={(v) => {
                setTo(v);
                put({ kind: 'attribute', key, value: v as Extract<Bulk, { kind: 'attribute' }>['value'] });
              }}
            />
          )}
        </>
      );
    case 'sequence':
      return (
        <Choice
          label="Sequence"
          none="Choose a sequence that is live …"
          value={value}
          choose={(sequence) => {
            setValue(sequence);
            put({ kind, sequence });
          }}
          of={(data?.sequences ?? []).filter((s) => s.status === 'live').map((s) => ({ value: s.id, label: s.name }))}
        />
      );
    case 'erase':
      return (
        <TextField
          label={`Everything that is known of them goes, for good. Type ${count} to say so.`}
          inputMode="numeric"
          value={value}
          onChange={(e) => {
            setValue(e.target.value);
            put(Number(e.target.value) === count ? { kind, count } : null);
          }}
        />
      );
  }
}

const TOLD: Record<Kind, (changed: number, asked: number) => string> = {
  tag: (n) => `${people(n)} got the tag.`,
  untag: (n) => `The tag is off ${people(n)}.`,
  list: (n, asked) =>
    `${people(n)} joined the list.${n < asked ? ` ${number(asked - n)} were on it already, or have left it.` : ''}`,
  attribute: (n) => `${people(n)} changed.`,
  sequence: (n, asked) =>
    `${people(n)} entered the sequence.${n < asked ? ` Its rules kept ${number(asked - n)} out.` : ''}`,
  erase: (n) => `${people(n)} erased.`,
};

function ManyDialog({
  kind,
  who,
  count,
  around,
  onClose,
}: {
  kind: Kind;
  who: Who;
  count: number;
  around: Pick<Surroundings, 'attributes' | 'lists' | 'tags'>;
  onClose: () => void;
}) {
  const [what, setWhat] = useState<Bulk | null>(null);
  const [act, { error, isLoading }] = useDoManyMutation();
  const told = useUndo(MANY_CHANGE);
  const problem = error as Failure | undefined;
  const go = async () => {
    if (!what) return;
    const answer = await act({ who, what });
    if (!answer.data) return;
    const { changed, asked, undo } = answer.data;
    told(TOLD[kind](changed, asked), undo);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title={`${CALLED[kind]}: ${people(count)}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <Parts kind={kind} around={around} put={setWhat} count={count} />
        {what?.kind === 'sequence' && <WhatComes id={what.sequence} who={who} />}
        {kind !== 'sequence' && kind !== 'erase' && (
          <p className="text-ink-2">No sequence starts by it. It can be undone for a week.</p>
        )}
        {problem && (
          <p role="alert" className="font-semibold text-brick">
            {problem.message}
          </p>
        )}
        <div className="flex justify-end">
          <Button tone={kind === 'erase' ? 'danger' : 'main'} type="submit" disabled={!what || isLoading}>
            {CALLED[kind]}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** What can be done with the people who are chosen. */
export function ManyBar({
  who,
  count,
  around,
  exported,
  all,
  clear,
}: {
  who: Who;
  count: number;
  around: Pick<Surroundings, 'attributes' | 'lists' | 'tags'>;
  /** Address of them as a file. */
  exported: string;
  /** Chooses all who fit, where only the page is chosen and more do. */
  all: { total: number; choose: () => void } | null;
  clear: () => void;
}) {
  const [kind, setKind] = useState<Kind | null>(null);
  return (
    <div className="flex items-center gap-3 border-b border-line bg-spruce-tint px-4 py-2">
      <b className="font-semibold">{people(count)} chosen</b>
      {all && (
        <Button tone="quiet" onClick={all.choose}>
          Choose all {number(all.total)} who fit
        </Button>
      )}
      <span className="flex-1" />
      <ActionMenu
        name="Do with them"
        className={buttonClass('main')}
        entries={KINDS.map((k) => ({ label: CALLED[k], danger: k === 'erase', act: () => setKind(k) }))}
      >
        Do with them …
      </ActionMenu>
      <a className={buttonClass()} href={exported} download>
        Export them
      </a>
      <Button tone="quiet" onClick={clear}>
        Choose nobody
      </Button>
      {kind && <ManyDialog kind={kind} who={who} count={count} around={around} onClose={() => setKind(null)} />}
    </div>
  );
}
