import { FILE_EVENT, type AtomOf } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { EventChoice } from '../../ui/event-choice.tsx';
import { FieldTests } from '../field-tests.tsx';
import type { AtomRow, PartsProps } from './row.ts';
import { SinceParts } from './since.tsx';

/** A download is kept as an event of ours: here it is asked for by the file. */
const asksForFile = (a: AtomOf<'event'>): boolean =>
  a.event === FILE_EVENT && a.where.length === 1 && a.where[0]?.field === 'file';

function EventParts({ atom, around, doc, scope, save }: PartsProps<'event'>) {
  if (asksForFile(atom))
    return (
      <>
        <Choice
          label="Which file"
          value={String(atom.where[0]?.value ?? '')}
          choose={(v) => save({ ...atom, where: [{ field: 'file', op: 'is', value: v }] })}
          of={[
            { value: '', label: 'Choose a file …' },
            ...around.files.filter((f) => !f.mime.startsWith('image/')).map((f) => ({ value: f.id, label: f.name })),
          ]}
        />
        <SinceParts since={atom.since} doc={doc} scope={scope} save={(since) => save({ ...atom, since })} />
      </>
    );
  const { times: _, per: __, ...once } = atom;
  const { per: ___, ...together } = atom;
  const fields = around.kinds.find((k) => k.name === atom.event)?.fields ?? [];
  return (
    <>
      <EventChoice value={atom.event} kinds={around.kinds} save={(v) => save({ ...atom, event: v, where: [] })} />
      <Choice
        label="How often"
        value={atom.times ?? 1}
        choose={(v) => save(Number(v) > 1 ? { ...atom, times: Number(v) } : once)}
        of={[
          { value: 1, label: 'at least once' },
          ...[2, 3, 4, 5, 10].map((n) => ({ value: n, label: `${n} times or more` })),
        ]}
      />
      {atom.times && fields.length > 0 && (
        <Choice
          label="Counted"
          value={atom.per ?? ''}
          choose={(v) => save(v ? { ...atom, per: v } : together)}
          of={[
            { value: '', label: 'all together' },
            ...fields
              .filter((f) => f.type !== 'list')
              .map((f) => ({ value: f.name, label: `for the same ${f.name.replaceAll('_', ' ')}` })),
          ]}
        />
      )}
      <SinceParts since={atom.since} doc={doc} scope={scope} save={(since) => save({ ...atom, since })} />
      <FieldTests tests={atom.where} fields={fields} save={(where) => save({ ...atom, where })} />
    </>
  );
}

export const eventRow: AtomRow<'event'> = {
  choices: [
    { kind: 'did', label: 'did an event' },
    { kind: 'did-not', label: 'did not do an event' },
    { kind: 'downloaded', label: 'downloaded a file' },
    { kind: 'not-downloaded', label: 'did not download a file' },
  ],
  choiceOf: (a) => {
    if (asksForFile(a)) return a.done ? 'downloaded' : 'not-downloaded';
    return a.done ? 'did' : 'did-not';
  },
  blank: (choice, was, { scope }) => {
    const old = was?.kind === 'event' ? was : null;
    const done = choice === 'did' || choice === 'downloaded';
    const since = old?.since ?? (scope === 'visit' ? { kind: 'entry' } : { kind: 'ever' });
    if (choice.endsWith('downloaded')) {
      const where = old && asksForFile(old) ? old.where : [{ field: 'file', op: 'is' as const, value: '' }];
      return { kind: 'event', event: FILE_EVENT, done, since, where };
    }
    return old && !asksForFile(old) ? { ...old, done } : { kind: 'event', event: '', done, since, where: [] };
  },
  Parts: EventParts,
};
