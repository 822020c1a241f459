import { Choice } from '../ui/choice.tsx';

/** Whether something new is the whole team's, or one's own. */
export function ForWhom({ mine, set }: { mine: boolean; set: (mine: boolean) => void }) {
  return (
    <Choice
      label="For"
      value={mine ? 'me' : 'all'}
      choose={(v) => set(v === 'me')}
      of={[
        { value: 'all', label: 'the whole team' },
        { value: 'me', label: 'me alone' },
      ]}
    />
  );
}
