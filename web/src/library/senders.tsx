import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import type { SenderRow } from '@ascenso/contracts';
import { useKeepSenderMutation } from './endpoints.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { Button, Chip, Sheet, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { ExchangeSender } from '../senders/exchange.tsx';
import { useLibrary } from './library.tsx';

const FIELDS = ['role', 'phone', 'page', 'photo'];

/** Keeps the sender of a form, tells how it went, and empties it where one was added. */
function useKeep(id: string | undefined) {
  const [keep] = useKeepSenderMutation();
  return (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = e.currentTarget;
    void keep({ id, ...senderOf(new FormData(form)) }).then((answer) => {
      if (answer.error) return void toast.error(sentence(answer.error));
      toast.success('Saved.');
      if (!id) form.reset();
    });
  };
}

const text = (f: FormData, name: string): string => {
  const value = f.get(name);
  return typeof value === 'string' ? value.trim() : '';
};
const senderOf = (f: FormData) => ({
  name: text(f, 'name'),
  email: text(f, 'email'),
  fields: Object.fromEntries(FIELDS.map((k) => [k, text(f, k)]).filter(([, v]) => v)) as Record<string, string>,
  ...(text(f, 'whose') !== 'theirs' && { whose: text(f, 'whose') as 'mine' | 'nobody' }),
});

function SenderForm({ sender }: { sender?: SenderRow }) {
  const { files } = useLibrary();
  const keep = useKeep(sender?.id);
  const fields = sender?.fields ?? {};
  const [photo, setPhoto] = useState(fields['photo'] ?? '');
  const { data: me } = useMeQuery();
  const theirs = sender?.user && sender.user.id !== me?.user.id ? sender.user.name : null;
  const [whose, setWhose] = useState(theirs ? 'theirs' : sender?.user ? 'mine' : 'nobody');
  return (
    <form
      onSubmit={keep}
      className="grid grid-cols-[repeat(5,minmax(0,1fr))_minmax(0,0.8fr)_minmax(0,0.9fr)_5.5rem_4rem] items-end gap-3 border-t border-line pt-3"
    >
      <TextField label={sender ? 'Name' : 'New sender'} name="name" defaultValue={sender?.name} required />
      <TextField label="Address" name="email" type="email" defaultValue={sender?.email} required />
      <TextField label="Role" name="role" defaultValue={fields.role} />
      <TextField label="Phone" name="phone" defaultValue={fields.phone} />
      <TextField label="Page" name="page" defaultValue={fields.page} />
      <Choice
        label="Photo"
        name="photo"
        value={photo}
        choose={setPhoto}
        of={[
          { value: '', label: 'none' },
          ...files
            .filter((f) => f.mime.startsWith('image/'))
            .map((f) => ({ value: f.id, label: f.name, picture: `/f/${f.id}` })),
        ]}
      />
      <Choice
        label="Whose own"
        name="whose"
        value={whose}
        choose={setWhose}
        of={[
          { value: 'nobody', label: 'nobody’s' },
          { value: 'mine', label: 'yours' },
          ...(theirs ? [{ value: 'theirs', label: `${theirs}’s` }] : []),
        ]}
      />
      <span className="pb-1.5">
        {sender?.untouched ? (
          <Chip tone="fix">To look at</Chip>
        ) : sender?.isDefault ? (
          <Chip tone="live">Default</Chip>
        ) : null}
      </span>
      <Button type="submit">{sender ? 'Save' : 'Add'}</Button>
    </form>
  );
}

/** Who emails come from, and the lists they go to. */
export function SendersRoom() {
  const { senders } = useLibrary();
  const [exchanging, setExchanging] = useState(false);
  return (
    <>
      <Sheet className="flex flex-col gap-3 p-5">
        <h2 className="text-[16px] font-bold">Senders</h2>
        <p className="text-ink-2">
          Name, role, phone, page and photo fill the signature block and the fields of the sender. What you take from a
          colleague’s template is from the sender that is yours, with your own photo and phone.
        </p>
        {senders.map((s) => (
          <SenderForm key={s.id} sender={s} />
        ))}
        <SenderForm />
        <Button className="self-start" onClick={() => setExchanging(true)}>
          Exchange a sender in many emails
        </Button>
      </Sheet>
      {exchanging && (
        <ExchangeSender
          senders={senders}
          from={senders.find((s) => s.isDefault)?.id ?? ''}
          onClose={() => setExchanging(false)}
        />
      )}
    </>
  );
}
