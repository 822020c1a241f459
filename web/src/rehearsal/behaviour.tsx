import { linksOf, type Behaviour, type EmailStep } from '@ascenso/core';
import { useAroundQuery } from '../app/api.ts';
import { useAct, useApp } from '../app/store.ts';
import { Select } from '../ui/index.tsx';
import { behave } from './rehearsing.ts';

/** What the rehearsed person does with one email, where it differs from what they usually do. */
export function RehearsedBehaviour({ step }: { step: EmailStep }) {
  const { open, emails } = useApp((s) => s.rehearsing);
  const { data: around } = useAroundQuery();
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
    <Select label="In the rehearsal, with this email they" value={value} onChange={(e) => choose(e.target.value)}>
      <option value="">do what they usually do</option>
      <option value="ignores">never open it</option>
      <option value="opens">open it</option>
      {links.map((l) => (
        <option key={l.address} value={`link ${l.address}`}>
          click “{name(l.address, l.label)}”
        </option>
      ))}
    </Select>
  );
}
