import type { After } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { Choice } from '../ui/choice.tsx';
import { Text } from './fields.tsx';

/** What stands in place of a timer that is over. */
export function AfterParts({ after, save }: { after: After; save: (a: After) => void }) {
  const around = useAround(['files']);
  const pictures = around?.files.filter((f) => f.mime.startsWith('image/')) ?? [];
  const kind = (to: string) =>
    save(
      to === 'message'
        ? { kind: 'message', text: 'This offer has closed.' }
        : to === 'picture'
          ? { kind: 'picture', file: pictures[0]?.id ?? '' }
          : { kind: to as 'zeros' },
    );
  return (
    <>
      <Choice
        label="When it is over, the timer"
        value={after.kind}
        choose={kind}
        of={[
          { value: 'zeros', label: 'stays at zero' },
          { value: 'message', label: 'says something' },
          { value: 'picture', label: 'is another picture' },
          { value: 'gone', label: 'is gone' },
        ]}
      />
      {after.kind === 'message' && (
        <Text label="It says" value={after.text} save={(text) => text.trim() && save({ kind: 'message', text })} />
      )}
      {after.kind === 'picture' && (
        <Choice
          label="Which picture"
          value={after.file}
          choose={(v) => save({ kind: 'picture', file: v })}
          of={pictures.map((f) => ({ value: f.id, label: f.name }))}
        />
      )}
    </>
  );
}
