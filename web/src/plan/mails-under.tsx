import type { Surroundings } from '@ascenso/contracts';
import type { Sequence } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { edit } from '../drafts/draft.ts';
import { Choice } from '../ui/choice.tsx';
import { number } from '../ui/index.tsx';

/** The list that a sequence mails under, or that it is service mail. */
export function MailsUnder({
  doc,
  around,
  inline = false,
}: {
  doc: Sequence;
  around: Surroundings;
  /** Within a sentence, which says what it is. */
  inline?: boolean;
}) {
  const dispatch = useAct();
  return (
    <Choice
      label="It mails"
      hideLabel={inline}
      inline={inline}
      part="list"
      value={doc.list ?? 'service'}
      choose={(v) => dispatch(edit([{ type: 'set', field: 'list', value: v === 'service' ? null : v }]))}
      of={[
        ...(doc.list === '' ? [{ value: '', label: 'choose whom …' }] : []),
        ...around.lists.map((l) => ({ value: l.id, label: `people on “${l.name}” (${number(l.confirmed)})` })),
        { value: 'service', label: 'service mail: receipts and repairs, no list needed' },
      ]}
    />
  );
}
