import { Plus } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { FormRow } from '@ascenso/contracts';
import { sentence, type Failure } from '../../app/api.ts';
import { Button, Chip, Dialog, Empty, number, Sheet, TextField } from '../../ui/index.tsx';
import { useFormsQuery, useMakeFormMutation } from './endpoints.ts';

export function FormChip({ status }: { status: FormRow['status'] }) {
  if (status === 'open') return <Chip tone="live">Open</Chip>;
  return <Chip tone="draft">{status === 'draft' ? 'Draft' : 'Closed'}</Chip>;
}

function NewForm({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [make, { error, isLoading }] = useMakeFormMutation();
  const navigate = useNavigate();
  const problem = error as Failure | undefined;
  const submit = async () => {
    const answer = await make(name);
    if (answer.data) await navigate(`/library/forms/${answer.data.id}`);
  };
  return (
    <Dialog open onClose={onClose} title="New form">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void submit();
        }}
      >
        <TextField
          label="What do they sign up for?"
          placeholder="Five stitches, the guide"
          value={name}
          onChange={(e) => setName(e.target.value)}
          required
          autoFocus
          error={problem?.message}
        />
        <p className="text-ink-2">
          Its confirmation email is made along with it. Nobody sees the form until you open it.
        </p>
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={isLoading}>
            Make this form
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Sign-up forms: one for each gift. */
export function FormsRoom() {
  const { data, error } = useFormsQuery();
  const [making, setMaking] = useState(false);
  const forms = data?.forms ?? [];
  return (
    <>
      <div className="flex items-center justify-between">
        <p className="text-ink-2">
          How people come in by themselves: they ask, confirm in an email, and are on the list.
        </p>
        <Button tone="main" onClick={() => setMaking(true)}>
          <Plus size={16} aria-hidden="true" />
          New form
        </Button>
      </div>
      {error && <p className="text-brick">{sentence(error)}</p>}
      {data && forms.length === 0 && <Empty text="No form yet. Make one for each thing that people can sign up for." />}
      {forms.length > 0 && (
        <Sheet className="overflow-x-auto">
          <table className="w-full min-w-[40rem]">
            <thead className="bg-paper-2 text-left text-[12px] text-ink-2">
              <tr>
                <th className="py-2 pl-4 font-semibold">Form</th>
                <th className="font-semibold">State</th>
                <th className="pr-6 text-right font-semibold">Asked</th>
                <th className="pr-6 text-right font-semibold">Confirmed</th>
                <th className="pr-6 text-right font-semibold">Confirmed of those who asked</th>
              </tr>
            </thead>
            <tbody>
              {forms.map((f) => (
                <tr key={f.id} className="border-t border-line hover:bg-paper-2">
                  <td className="py-2 pl-4">
                    <Link to={`/library/forms/${f.id}`} className="font-semibold hover:underline">
                      {f.form.name}
                    </Link>
                  </td>
                  <td>
                    <FormChip status={f.status} />
                  </td>
                  <td className="pr-6 text-right tabular-nums">{number(f.asked)}</td>
                  <td className="pr-6 text-right tabular-nums">{number(f.confirmed)}</td>
                  <td className="pr-6 text-right tabular-nums">
                    {f.asked === 0 ? '' : `${Math.round((100 * f.confirmed) / f.asked)}%`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Sheet>
      )}
      {making && <NewForm onClose={() => setMaking(false)} />}
    </>
  );
}
