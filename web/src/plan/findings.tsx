import { useNavigate } from 'react-router';
import type { Finding } from '@ascenso/contracts';
import { Button, Chip } from '../ui/index.tsx';

/** Where a finding is mended: the step in the plan, or the email in the composer. */
export function placeOf(id: string, f: Finding): string {
  const { step, block, part } = f.place;
  if (!step) return `/sequences/${id}${part === 'trigger' ? '?select=trigger' : ''}`;
  if (block || part) return `/sequences/${id}/emails/${step}${block ? `?block=${block}` : `?part=${part}`}`;
  return `/sequences/${id}?select=${step}`;
}

export function FindingList({ id, findings, onJump }: { id: string; findings: Finding[]; onJump: () => void }) {
  const navigate = useNavigate();
  if (findings.length === 0) return <p className="text-ink-2">All checks passed: nothing to fix.</p>;
  return (
    <ul className="flex flex-col divide-y divide-line">
      {findings.map((f, i) => (
        <li key={`${f.check}-${i}`} className="flex items-start gap-3 py-2.5">
          <Chip tone={f.level === 'error' ? 'error' : 'fix'}>{f.level === 'error' ? 'Fix first' : 'Look at'}</Chip>
          <div className="flex-1"><p className="font-semibold">{f.message}</p><p className="text-ink-2">{f.fix}</p></div>
          <Button onClick={() => { onJump(); void navigate(placeOf(id, f)); }}>Go there</Button>
        </li>
      ))}
    </ul>
  ); // prettier-ignore
}
