import type { PersonAnswer } from '@ascenso/contracts';
import { dateWords, type Zone } from '@ascenso/core';
import { Button, Dialog } from '../ui/index.tsx';

type Ends = PersonAnswer['ends'];

/** Since when mail has ended for somebody, and what opens it again. */
export function MailEnds({ ends, zone }: { ends: Ends; zone: Zone }) {
  const told = [
    ends.bounced !== null &&
      `Bounced on ${dateWords(zone, ends.bounced, true)}: nothing is sent to this address until it is changed, or its owner confirms a list.`,
    ends.complained !== null &&
      `Reported an email as unwanted on ${dateWords(zone, ends.complained, true)}: only service mail is sent.`,
    ends.unsubscribed !== null &&
      `Unsubscribed on ${dateWords(zone, ends.unsubscribed, true)}: only service mail is sent, until they confirm a list again.`,
  ].filter((t) => t !== false);
  return told.map((t) => (
    <p key={t} className="mt-1.5 text-[13px] text-ink-2">
      {t}
    </p>
  ));
}

/** What confirming a list for somebody does, and what it does not, who gets no mail now. */
export function ConfirmAgain({
  list,
  ends,
  confirm,
  onClose,
}: {
  list: string;
  ends: Ends;
  confirm: () => void;
  onClose: () => void;
}) {
  const opens = ends.unsubscribed !== null;
  const stays = ends.bounced !== null || ends.complained !== null;
  return (
    <Dialog open onClose={onClose} title={`Confirm “${list}” for them`}>
      <div className="flex flex-col gap-2 text-ink-2">
        {opens && (
          <p>
            They unsubscribed. Confirming “{list}” takes that back: do it only if they have asked you to. Mail under
            other lists that they were on stays off. Their story tells that the team entered it.
          </p>
        )}
        {ends.bounced !== null && (
          <p>
            Their address bounced. Confirming does not change that: nothing is sent until the address is changed, or
            they confirm by themselves.
          </p>
        )}
        {ends.complained !== null && (
          <p>They reported an email as unwanted. Confirming does not change that: only service mail is sent.</p>
        )}
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          tone="main"
          onClick={() => {
            confirm();
            onClose();
          }}
        >
          {opens && !stays ? `Confirm, and mail them again` : 'Confirm the list only'}
        </Button>
      </div>
    </Dialog>
  );
}
