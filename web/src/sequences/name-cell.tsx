import { Link } from 'react-router';
import type { SequenceRow } from '@ascenso/contracts';
import { LabelsOf } from '../labels/labels-of.tsx';

/** What a sequence or a send is called, its labels, and what it is in small print. */
export function NameCell({ s, words }: { s: SequenceRow; words: string }) {
  return (
    <td className="py-2.5 pr-3 pl-4">
      <div className="flex flex-wrap items-center gap-1.5">
        <Link to={`/sequences/${s.id}`} className="font-semibold hover:underline">
          {s.name}
        </Link>
        <LabelsOf kind="sequence" id={s.id} name={s.name} />
      </div>
      {s.about && <p className="max-w-md text-[13px]">{s.about}</p>}
      <p className="text-[13px] text-ink-2">{words}</p>
    </td>
  );
}
