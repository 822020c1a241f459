import { useState } from 'react';
import { toast } from 'sonner';
import type { EmailSender, Surroundings } from '@ascenso/contracts';
import { sentence } from '../app/api.ts';
import { Button, Chip, Dialog } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { useEmailSendersQuery, useExchangeSenderMutation } from './endpoints.ts';

const keyOf = (e: EmailSender) => `${e.sequence.id} ${e.step}`;
const many = (n: number) => (n === 1 ? '1 email' : `${n} emails`);

/** The emails of one sequence after the other, each to be taken or left. */
function EmailList({
  emails,
  left,
  toggle,
}: {
  emails: readonly EmailSender[];
  left: ReadonlySet<string>;
  toggle: (keys: readonly string[], on: boolean) => void;
}) {
  const sequences = [...new Map(emails.map((e) => [e.sequence.id, e.sequence])).values()];
  return (
    <ul className="max-h-[40vh] overflow-y-auto rounded-control border border-line" tabIndex={0} aria-label="Emails">
      {sequences.map((s) => {
        const own = emails.filter((e) => e.sequence.id === s.id);
        const taken = own.filter((e) => !left.has(keyOf(e))).length;
        return (
          <li key={s.id} className="border-t border-line px-3 py-2 first:border-t-0">
            <label className="flex items-center gap-2 font-semibold">
              <input
                type="checkbox"
                checked={taken === own.length}
                ref={(box) => void (box && (box.indeterminate = taken > 0 && taken < own.length))}
                onChange={(e) => toggle(own.map(keyOf), e.target.checked)}
              />
              {s.name} {s.live && <Chip tone="live">Live</Chip>}
            </label>
            {own.map((e) => (
              <label key={e.step} className="ml-6 flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={!left.has(keyOf(e))}
                  onChange={(event) => toggle([keyOf(e)], event.target.checked)}
                />
                {e.name}
              </label>
            ))}
          </li>
        );
      })}
    </ul>
  );
}

/** Exchanges a sender for another, in the emails of one sequence or in all of them: the list is told first. */
export function ExchangeSender({
  senders,
  from: first,
  sequence,
  onClose,
}: {
  senders: Surroundings['senders'];
  from: string;
  /** Of one sequence only. */
  sequence?: string;
  onClose: () => void;
}) {
  const { data } = useEmailSendersQuery(undefined, { refetchOnMountOrArgChange: true });
  const [exchange, { isLoading }] = useExchangeSenderMutation();
  const [from, setFrom] = useState(first);
  const [to, setTo] = useState('');
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const usual = senders.find((s) => s.isDefault)?.id ?? '';
  const emails = (data?.emails ?? []).filter(
    (e) => (sequence === undefined || e.sequence.id === sequence) && (e.sender || usual) === from,
  );
  const taken = emails.filter((e) => !left.has(keyOf(e)));
  const choices = senders.map((s) => ({ value: s.id, label: s.isDefault ? `${s.name} (default)` : s.name }));
  const toggle = (keys: readonly string[], on: boolean) => {
    const next = new Set(left);
    for (const k of keys) {
      if (on) next.delete(k);
      else next.add(k);
    }
    setLeft(next);
  };
  const go = async () => {
    const answer = await exchange({
      sender: to === usual ? '' : to,
      emails: taken.map((e) => ({ sequence: e.sequence.id, step: e.step })),
    });
    if (answer.error) return toast.error(sentence(answer.error));
    const name = senders.find((s) => s.id === to)?.name ?? '';
    toast.success(
      `${many(taken.length)} ${taken.length === 1 ? 'is' : 'are'} from ${name} now, in the drafts. What is live changes when it is published.`,
    );
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Exchange a sender" wide>
      <div className="flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-3">
          <Choice label="In the emails that are from" value={from} choose={setFrom} of={choices} />
          <Choice
            label="They are from now on from"
            value={to}
            choose={setTo}
            none="Choose a sender …"
            of={choices.filter((c) => c.value !== from)}
          />
        </div>
        {data && emails.length === 0 ? (
          <p className="text-ink-2">No email {sequence ? 'of this sequence ' : ''}is from this sender.</p>
        ) : (
          <EmailList emails={emails} left={left} toggle={toggle} />
        )}
        <Button
          tone="main"
          className="self-end"
          disabled={isLoading || taken.length === 0 || to === '' || to === from}
          onClick={() => void go()}
        >
          Exchange it in {many(taken.length)}
        </Button>
      </div>
    </Dialog>
  );
}
