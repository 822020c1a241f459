import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Finding } from '@ascenso/contracts';
import { useKeepWordMutation } from '../library/endpoints.ts';
import { edit, undo } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Button, Chip } from '../ui/index.tsx';

/** Checks of a whole email, which is mended in the composer, or sent as a test there. */
const OF_EMAIL = new Set(['too-heavy', 'buttons', 'too-many-links', 'not-tested']);

/** Where a finding is mended: the step in the plan, or the email in the composer, down to the field. */
export function placeOf(id: string, f: Finding): string {
  const { step, block, part } = f.place;
  if (!step) return `/sequences/${id}${part === 'trigger' ? '?select=trigger' : ''}`;
  if (f.check === 'not-tested') return `/sequences/${id}/emails/${step}?open=test`;
  if (!block && !part) return `/sequences/${id}${OF_EMAIL.has(f.check) ? `/emails/${step}` : `?select=${step}`}`;
  // Where no field is named, the block itself is gone to.
  const query = new URLSearchParams({ ...(block ? { block } : {}), part: part ?? 'block' });
  return `/sequences/${id}/emails/${step}?${query}`;
}

/** Emails that were not sent as a test are told in one line, however many there are. */
const UNTESTED = 'not-tested';
function gathered(findings: readonly Finding[]): Finding[] {
  const untested = findings.filter((f) => f.check === UNTESTED);
  const [first] = untested;
  if (!first || untested.length === 1) return [...findings];
  const one = { ...first, message: `${untested.length} emails were not sent as a test since they last changed.` };
  return [...findings.filter((f) => f.check !== UNTESTED), one];
}

/** The words of the button that opens the checks. */
export function toFix(findings: readonly Finding[] | undefined): string {
  if (!findings) return 'Checking …';
  const told = gathered(findings);
  const errors = told.filter((f) => f.level === 'error').length;
  const others = told.length - errors;
  const words = [
    ...(errors > 0 ? [`${errors} ${errors === 1 ? 'error' : 'errors'}`] : []),
    ...(others > 0 ? [`${others} to look at`] : []),
  ];
  return words.join(', ') || 'Checks passed';
}

export function FindingList({ id, findings, onJump }: { id: string; findings: Finding[]; onJump: () => void }) {
  const navigate = useNavigate();
  const dispatch = useAct();
  const [keepWord] = useKeepWordMutation();
  const isOurs = (word: string) => () => void keepWord(word);
  const mend = ({ repair, message }: Finding) => {
    if (repair && dispatch(edit(repair.commands)))
      toast(`Done: ${message}`, { action: { label: 'Undo', onClick: () => dispatch(undo()) } });
  };
  if (findings.length === 0) return <p className="text-ink-2">All checks passed: nothing to fix.</p>;
  return (
    <ul className="flex flex-col divide-y divide-line">
      {gathered(findings).map((f, i) => (
        <li key={`${f.check}-${i}`} className="flex items-start gap-3 py-2.5">
          <Chip tone={f.level === 'error' ? 'error' : 'fix'}>{f.level === 'error' ? 'Fix first' : 'Look at'}</Chip>
          <div className="min-w-0 flex-1">
            <p className="font-semibold">{f.message}</p>
            <p className="text-ink-2">{f.fix}</p>
          </div>
          {f.repair && (
            <Button
              className="!min-w-0 max-w-52 overflow-hidden !text-ellipsis"
              title={f.repair.label}
              onClick={() => mend(f)}
            >
              {f.repair.label}
            </Button>
          )}
          {f.word && <Button onClick={isOurs(f.word)}>It is a word of ours</Button>}
          <Button
            onClick={() => {
              onJump();
              void navigate(placeOf(id, f));
            }}
          >
            Go there
          </Button>
        </li>
      ))}
    </ul>
  );
}
