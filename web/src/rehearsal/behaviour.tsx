import { linksOf, type Behaviour, type EmailStep } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { useAct, useApp } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { behave } from './rehearsing.ts';

/** What the rehearsed person does with one email, where it differs from what they usually do. */
export function RehearsedBehaviour({ step }: { step: EmailStep }) {
  const { open, emails } = useApp((s) => s.rehearsing);
  const around = useAround(['files']);
  const dispatch = useAct();
  if (!open) return null;
  const links = linksOf(step.email);
  const now = emails[step.id];
  const value = !now ? '' : now.does === 'clicks' && now.link !== null ? `link ${now.link}` : now.does;
  const choose = (to: string) => {
    const behaviour: Behaviour | null =
      to === ''
        ? null
        : to.startsWith('link ')
          ? { does: 'clicks', link: to.slice(5) }
          : { does: to as 'ignores' | 'opens' };
    dispatch(behave({ step: step.id, behaviour }));
  };
  const name = (address: string, label: string) =>
    address.startsWith('file:') ? (around?.files.find((f) => f.id === address.slice(5))?.name ?? label) : label;
  return (
    <Choice
      label="In the rehearsal, with this email they"
      value={value}
      choose={choose}
      of={[
        { value: '', label: 'do what they usually do' },
        { value: 'ignores', label: 'never open it' },
        { value: 'opens', label: 'open it' },
        ...links.map((l) => ({ value: `link ${l.address}`, label: `click “${name(l.address, l.label)}”` })),
      ]}
    />
  );
}
