import { emailSteps, findStep, linksOf } from '@ascenso/core';
import { Select } from '../../ui/index.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function EmailParts({ atom, doc, around, save }: PartsProps<'email'>) {
  const step = doc ? findStep(doc, atom.step)?.step : undefined;
  const links = step?.kind === 'email' ? linksOf(step.email) : [];
  const { link: _, ...any } = atom;
  const name = (address: string, label: string) =>
    address.startsWith('file:')
      ? `${label}: ${around.files.find((f) => f.id === address.slice(5))?.name ?? 'a file'}`
      : label === address
        ? address
        : `${label}: ${address}`;
  return (
    <>
      <Select label="Which email" value={atom.step} onChange={(e) => save({ ...any, step: e.target.value })}>
        {doc &&
          emailSteps(doc).map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
      </Select>
      {atom.what === 'clicked' && (
        <Select
          label="Which link"
          value={atom.link ?? ''}
          onChange={(e) => save(e.target.value ? { ...atom, link: e.target.value } : any)}
        >
          <option value="">any link</option>
          {links.map((l) => (
            <option key={l.address} value={l.address}>
              {name(l.address, l.label)}
            </option>
          ))}
        </Select>
      )}
    </>
  );
}

export const emailRow: AtomRow<'email'> = {
  choices: [
    { kind: 'opened', label: 'opened an email of this sequence', in: ['visit'] },
    { kind: 'not-opened', label: 'did not open an email of this sequence', in: ['visit'] },
    { kind: 'clicked', label: 'clicked in an email of this sequence', in: ['visit'] },
    { kind: 'not-clicked', label: 'did not click in an email of this sequence', in: ['visit'] },
  ],
  choiceOf: (a) => (a.did ? a.what : `not-${a.what}`),
  blank: (choice, old, { doc }) => ({
    kind: 'email',
    step: old?.kind === 'email' ? old.step : ((doc && emailSteps(doc)[0]?.id) ?? ''),
    what: choice.endsWith('opened') ? 'opened' : 'clicked',
    did: !choice.startsWith('not-'),
  }),
  Parts: EmailParts,
};
