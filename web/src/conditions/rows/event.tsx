import { FILE_EVENT, type AtomOf } from '@ascenso/core';
import { Select } from '../../ui/index.tsx';
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
        <Select
          label="Which file"
          value={String(atom.where[0]?.value ?? '')}
          onChange={(e) => save({ ...atom, where: [{ field: 'file', op: 'is', value: e.target.value }] })}
        >
          <option value="">Choose a file …</option>
          {around.files
            .filter((f) => !f.mime.startsWith('image/'))
            .map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
        </Select>
        <SinceParts since={atom.since} doc={doc} scope={scope} save={(since) => save({ ...atom, since })} />
      </>
    );
  const { times: _, per: __, ...once } = atom;
  const { per: ___, ...together } = atom;
  const fields = around.kinds.find((k) => k.name === atom.event)?.fields ?? [];
  return (
    <>
      <Select
        label="Which event"
        value={atom.event}
        onChange={(e) => save({ ...atom, event: e.target.value, where: [] })}
      >
        <option value="">Choose an event …</option>
        {around.kinds.map((k) => (
          <option key={k.name} value={k.name}>
            {k.label} ({k.name})
          </option>
        ))}
      </Select>
      <Select
        label="How often"
        value={atom.times ?? 1}
        onChange={(e) => save(Number(e.target.value) > 1 ? { ...atom, times: Number(e.target.value) } : once)}
      >
        <option value={1}>at least once</option>
        {[2, 3, 4, 5, 10].map((n) => (
          <option key={n} value={n}>
            {n} times or more
          </option>
        ))}
      </Select>
      {atom.times && fields.length > 0 && (
        <Select
          label="Counted"
          value={atom.per ?? ''}
          onChange={(e) => save(e.target.value ? { ...atom, per: e.target.value } : together)}
        >
          <option value="">all together</option>
          {fields
            .filter((f) => f.type !== 'list')
            .map((f) => (
              <option key={f.name} value={f.name}>
                for the same {f.name.replaceAll('_', ' ')}
              </option>
            ))}
        </Select>
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
