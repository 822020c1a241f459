import { useState } from 'react';
import { toast } from 'sonner';
import type { MoneyAnswer, MoneyRules } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { sentence } from '../app/api.ts';
import { EventChoice } from '../ui/event-choice.tsx';
import { Choice } from '../ui/choice.tsx';
import { Button, Dialog, number } from '../ui/index.tsx';
import { NumberInput } from '../ui/number-field.tsx';
import { useMoneyQuery, useSetMoneyMutation } from './endpoints.ts';

const share = (n: number, what: string) => `${number(n)} ${what}`;

/** How money is counted, in one sentence, and the way to change it. */
export function MoneyNote() {
  const { data } = useMoneyQuery();
  const [changing, setChanging] = useState(false);
  if (!data) return null;
  const { rules, by, orders, events } = data;
  return (
    <p className="text-[12px] text-ink-2">
      An order counts to one email: to the one whose offer’s code was used, otherwise to the last one clicked in the{' '}
      {rules.days} days before. Of {number(orders)} orders of the workspace {share(by.code, 'came by a code')},{' '}
      {share(by.click, 'by a click')}, and {share(by.none, 'by no email')}.
      {events > orders &&
        ` ${number(events - orders)} events of that kind are no orders: their total cannot be read, or the order was known.`}
      {data.recounting && ' They are being counted anew.'}{' '}
      <button type="button" className="font-semibold text-spruce underline" onClick={() => setChanging(true)}>
        How money is counted
      </button>
      {changing && <MoneyDialog money={data} onClose={() => setChanging(false)} />}
    </p>
  );
}

function MoneyDialog({ money, onClose }: { money: MoneyAnswer; onClose: () => void }) {
  const around = useAround(['kinds']);
  const [set] = useSetMoneyMutation();
  const [draft, setDraft] = useState<MoneyRules>(money.rules);
  const put = (part: Partial<MoneyRules>) => setDraft({ ...draft, ...part });
  const save = async () => {
    const answer = await set(draft);
    if (answer.error) return void toast.error(sentence(answer.error));
    toast('All orders are counted anew, which takes a moment.');
    onClose();
  };
  const kind = around?.kinds.find((k) => k.name === draft.event);
  const field = (key: 'amount' | 'currency' | 'code' | 'number', label: string) => {
    const known = kind?.fields.map((f) => f.name) ?? [];
    // What is set stays to be chosen, also where no event has brought it yet.
    const names = draft[key] === '' || known.includes(draft[key]) ? known : [draft[key], ...known];
    return (
      <Choice
        label={label}
        value={draft[key]}
        of={[
          ...(key === 'amount' ? [] : [{ value: '', label: 'It has none' }]),
          ...names.map((name) => {
            const sample = kind?.sample[name];
            const shown = typeof sample === 'string' || typeof sample === 'number' ? `such as ${sample}` : '';
            return { value: name, label: name, ...(known.includes(name) ? { note: shown } : { note: 'not seen yet' }) };
          }),
        ]}
        choose={(name) => put({ [key]: name })}
      />
    );
  };
  return (
    <Dialog open onClose={onClose} title="How money is counted">
      <div className="flex flex-col gap-3 text-[14px] text-ink">
        <EventChoice
          label="An order is"
          value={draft.event}
          kinds={around?.kinds ?? []}
          save={(event) => put({ event })}
        />
        <div className="grid grid-cols-2 gap-3">
          {field('amount', 'Its total stands in')}
          {field('currency', `Its currency in (else ${money.currency})`)}
          {field('code', 'A code that was used in')}
          {field('number', 'The order’s number in')}
        </div>
        <label className="flex items-center gap-2">
          A click earns an order for
          <NumberInput
            label="Days after a click"
            least={1}
            most={90}
            value={draft.days}
            save={(days) => put({ days })}
            className="!w-20"
          />
          days
        </label>
        <p className="text-[13px] text-ink-2">
          Five days are common. The same order told again is one, where it has a number. A change counts all orders
          anew, from the first.
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="main" onClick={() => void save()}>
            Count anew
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
