import type { AtomOf } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { TextField } from '../../ui/index.tsx';
import { NumberInput } from '../../ui/number-field.tsx';
import type { AtomRow, PartsProps } from './row.ts';
import { SinceParts } from './since.tsx';

const WHAT = { got: 'got', opened: 'opened', clicked: 'clicked in' } as const;

function LinkParts({ atom, save }: Pick<PartsProps<'mail'>, 'atom' | 'save'>) {
  const { link, ...any } = atom;
  return (
    <>
      <Choice
        label="Which link"
        value={link?.by ?? ''}
        choose={(by) => save(by === '' ? any : { ...any, link: { by, text: link?.text ?? '' } })}
        of={[
          { value: '', label: 'any link' },
          { value: 'host', label: 'a link to a site', note: 'and what is below it' },
          { value: 'words', label: 'a link whose words say' },
        ]}
      />
      {link && (
        <TextField
          label={link.by === 'host' ? 'Site' : 'Words'}
          placeholder={link.by === 'host' ? 'foldwell.example' : 'See the kits'}
          value={link.text}
          onChange={(e) => save({ ...any, link: { ...link, text: e.target.value.trimStart().slice(0, 200) } })}
        />
      )}
    </>
  );
}

function MailParts({ atom, doc, scope, save }: PartsProps<'mail'>) {
  const { link: _, ...any } = atom;
  return (
    <>
      <div className="flex items-end gap-1">
        <Choice
          label={atom.did ? 'They' : 'They never'}
          value={atom.what}
          choose={(what) => save(what === 'clicked' ? { ...atom, what } : { ...any, what })}
          of={(Object.keys(WHAT) as AtomOf<'mail'>['what'][]).map((what) => ({ value: what, label: WHAT[what] }))}
        />
        <NumberInput
          className="!w-16"
          label="How many emails"
          least={1}
          most={999}
          value={atom.times}
          save={(times) => save({ ...atom, times })}
        />
        <span className="py-2 whitespace-nowrap">{atom.times === 1 ? 'email or more' : 'emails or more'}</span>
      </div>
      {atom.what === 'clicked' && <LinkParts atom={atom} save={save} />}
      <SinceParts since={atom.since} doc={doc} scope={scope} save={(since) => save({ ...atom, since })} />
    </>
  );
}

export const mailRow: AtomRow<'mail'> = {
  choices: [
    { kind: 'mail', label: 'got, opened or clicked emails of any sequence' },
    { kind: 'no-mail', label: 'did not get, open or click emails of any sequence' },
  ],
  choiceOf: (a) => (a.did ? 'mail' : 'no-mail'),
  blank: (choice, old) => ({
    ...(old?.kind === 'mail'
      ? old
      : { kind: 'mail', what: 'opened', times: 1, since: { kind: 'period', amount: 30, unit: 'days' } }),
    did: choice === 'mail',
  }),
  Parts: MailParts,
};
