import { emailSteps, findStep, linksOf } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
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
      <Choice
        label="Which email"
        value={atom.step}
        choose={(v) => save({ ...any, step: v })}
        of={[...(doc ? [...emailSteps(doc).map((s) => ({ value: s.id, label: s.name }))] : [])]}
      />
      {atom.what === 'clicked' && (
        <Choice
          label="Which link"
          value={atom.link ?? ''}
          choose={(v) => save(v ? { ...atom, link: v } : any)}
          of={[
            { value: '', label: 'any link' },
            ...links.map((l) => ({ value: l.address, label: name(l.address, l.label) })),
          ]}
        />
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
