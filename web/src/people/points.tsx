import { X } from 'lucide-react';
import { toast } from 'sonner';
import type { PointRules } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { api, sentence } from '../app/api.ts';
import { EventChoice } from '../ui/event-choice.tsx';
import { IconButton, Sheet } from '../ui/index.tsx';
import { NumberInput } from '../ui/number-field.tsx';

const { usePointsQuery, useSetPointsMutation } = api.enhanceEndpoints({ addTagTypes: ['points'] }).injectEndpoints({
  endpoints: (b) => ({
    points: b.query<PointRules, void>({ query: () => '/points', providesTags: ['points'] }),
    setPoints: b.mutation<object, PointRules>({
      query: (body) => ({ url: '/points', method: 'PUT', body }),
      invalidatesTags: ['points'],
    }),
  }),
});

/** What an action with no points of its own earns when it is put in. */
const FIRST = 10;

/** What people earn by what they do. */
export function Points() {
  const { data } = usePointsQuery();
  const around = useAround(['kinds']);
  const [set] = useSetPointsMutation();
  if (!data || !around) return null;
  const save = async (part: Partial<PointRules>) => {
    const answer = await set({ ...data, ...part });
    if (answer.error) toast.error(sentence(answer.error));
  };
  const { events } = data;
  const label = (name: string) => around.kinds.find((k) => k.name === name)?.label ?? name;
  const row = (name: string, words: string, value: number, to: (n: number) => void, off?: () => void) => (
    <li key={name} className="flex items-center gap-3 border-t border-line px-4 py-1.5">
      <span className="flex-1">{words}</span>
      <NumberInput
        label={`Points for: ${words}`}
        least={-1000}
        most={1000}
        value={value}
        save={to}
        late
        className="!w-20"
      />
      <span className="w-12 text-ink-2">points</span>
      <span className="w-8">
        {off && (
          <IconButton name={`No points for: ${words}`} onClick={off}>
            <X size={14} />
          </IconButton>
        )}
      </span>
    </li>
  );
  return (
    <Sheet className="max-w-2xl">
      <div className="px-4 pt-4 pb-3">
        <h2 className="font-head text-[16px] font-bold">Points for what they do</h2>
        <p className="text-ink-2">
          Who does more has more: people can be ranked by points, and conditions can ask for them. Counted from now on;
          0 gives nothing.
        </p>
      </div>
      <ul>
        {row('opened', 'Opens an email, the first time', data.opened, (opened) => void save({ opened }))}
        {row(
          'clicked',
          'Clicks in an email, the first time, on top of the opening',
          data.clicked,
          (clicked) => void save({ clicked }),
        )}
        {Object.entries(events).map(([name, n]) =>
          row(
            name,
            name === 'file.downloaded' ? 'Downloads a file, once for each file' : `${label(name)} (${name}), each time`,
            n,
            (to) => void save({ events: { ...events, [name]: to } }),
            () => {
              const { [name]: _, ...rest } = events;
              void save({ events: rest });
            },
          ),
        )}
      </ul>
      <div className="border-t border-line p-4">
        <div className="max-w-sm">
          <EventChoice
            label="Also for"
            value=""
            kinds={around.kinds.filter((k) => !(k.name in events))}
            save={(name) => void save({ events: { ...events, [name]: FIRST } })}
          />
        </div>
      </div>
    </Sheet>
  );
}
