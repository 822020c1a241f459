import { useState, type FormEvent } from 'react';
import type { EventKindRow } from '@ascenso/contracts';
import { useDeclareKindMutation } from './kind-endpoints.ts';
import { useAround } from '../app/around.ts';
import { sentence, type Failure } from '../app/api.ts';
import { useWebhookSecretQuery } from './people-endpoints.ts';
import { Button, Chip, inputClass, Sheet, TextField } from '../ui/index.tsx';
import { Keys } from './keys.tsx';
import { KindDialog } from './kind-dialog.tsx';
import { PeopleTabs } from './people-tabs.tsx';
import { Site } from './site.tsx';

function Kinds() {
  const around = useAround(['kinds']);
  const [declare, { error }] = useDeclareKindMutation();
  const [changing, setChanging] = useState<EventKindRow | null>(null);
  const problem = error as Failure | undefined;
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const target = e.currentTarget;
    const form = new FormData(target);
    const fields = String(form.get('fields') ?? '')
      .split(',')
      .map((f) => f.trim())
      .filter(Boolean)
      .map((f) => {
        const [name = '', type = 'text'] = f.split(':').map((p) => p.trim());
        return { name, type };
      });
    const answer = await declare({ name: form.get('name'), label: form.get('label'), fields });
    if (answer.data) target.reset();
  };
  return (
    <Sheet className="p-5">
      <h2 className="mb-1 text-[16px] font-bold">Kinds of events</h2>
      <p className="mb-3 text-ink-2">Declared here, or learned from the first one that arrives.</p>
      <table className="mb-4 w-full">
        <thead className="text-left text-[12px] text-ink-2">
          <tr>
            <th className="py-1 font-semibold">Called</th>
            <th className="font-semibold">Name</th>
            <th className="font-semibold">Fields</th>
            <th className="font-semibold">From</th>
            <th>
              <span className="sr-only">Change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {around?.kinds.map((k) => (
            <tr key={k.name} className="border-t border-line">
              <td className="py-1.5 font-semibold">{k.label}</td>
              <td className="text-ink-2">{k.name}</td>
              <td>
                <span className="flex flex-wrap gap-1">
                  {k.fields.map((f) => (
                    <Chip key={f.name} tone="data">
                      {f.name}: {f.type}
                    </Chip>
                  ))}
                </span>
              </td>
              <td className="text-ink-2">{k.learned ? 'learned' : 'declared'}</td>
              <td className="text-right">
                <Button tone="quiet" aria-label={`Change ${k.label}`} onClick={() => setChanging(k)}>
                  Change
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <form onSubmit={(e) => void submit(e)} className="grid grid-cols-[1fr_1fr_2fr_auto] items-end gap-3">
        <TextField label="Called" name="label" placeholder="Ordered" required />
        <TextField label="Name" name="name" placeholder="order.paid" required />
        <TextField label="Fields (name: type, …)" name="fields" placeholder="total: number, code: text" />
        <Button type="submit">Declare</Button>
      </form>
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-brick">
          {problem.message}
        </p>
      )}
      {changing && <KindDialog kind={changing} onClose={() => setChanging(null)} />}
    </Sheet>
  );
}

/** What a receiver of webhooks needs to know that a call is ours. */
function Webhooks() {
  const { data, error } = useWebhookSecretQuery();
  return (
    <Sheet className="p-5">
      <h2 className="mb-1 text-[16px] font-bold">Webhooks</h2>
      <p className="mb-3 text-ink-2">
        Calls that a sequence makes are signed as the Standard Webhooks specification says, in the headers webhook-id,
        webhook-timestamp and webhook-signature. The receiver checks them with this secret.
      </p>
      {error ? (
        <p className="text-ink-2">{sentence(error)}</p>
      ) : (
        <input
          aria-label="Secret of webhooks"
          readOnly
          value={data?.secret ?? ''}
          onFocus={(e) => e.target.select()}
          className={`${inputClass} font-mono`}
        />
      )}
    </Sheet>
  );
}

export function EventsScreen() {
  return (
    <div className="flex flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="flex-1 text-[24px] font-bold">Events and keys</h1>
        <PeopleTabs />
      </div>
      <Kinds />
      <Site />
      <Keys />
      <Webhooks />
    </div>
  );
}
