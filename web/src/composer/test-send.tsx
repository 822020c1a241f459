import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { sentence, useMeQuery } from '../app/api.ts';
import { useTestSendMutation } from './endpoints.ts';
import { settled } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { useComposer } from './context.ts';
import { personName } from './reader.tsx';

/** Sends the email to oneself or a colleague, filled in as the chosen reader. */
export function TestSend({ onClose }: { onClose: () => void }) {
  const { id, step, reader } = useComposer();
  const { data: me } = useMeQuery();
  const [to, setTo] = useState('');
  const [send, { error, isLoading }] = useTestSendMutation();
  const dispatch = useAct();
  useEffect(() => setTo(me?.user.email ?? ''), [me]);
  const go = async () => {
    if (!reader.person) return;
    await dispatch(settled());
    const answer = await send({ id, step: step.id, to, person: reader.person.id, event: reader.event?.id ?? null });
    if (answer.error) return;
    toast.success(`Sent to ${to}, as ${personName(reader.person)} would get it.`);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Send a test">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <TextField
          label="To"
          type="email"
          autoFocus
          value={to}
          onChange={(e) => setTo(e.target.value)}
          error={error ? sentence(error) : undefined}
        />
        <p className="text-ink-2">
          {reader.person
            ? `Filled in as ${personName(reader.person)}. It counts nowhere.`
            : 'Add a person first: a test is filled in as somebody.'}
        </p>
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={isLoading || !reader.person}>
            Send the test
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
