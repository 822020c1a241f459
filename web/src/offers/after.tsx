import type { After } from '@ascenso/core';
import { useAroundQuery } from '../app/api.ts';
import { Select } from '../ui/index.tsx';
import { Text } from './fields.tsx';

/** What stands in place of a timer that is over. */
export function AfterParts({ after, save }: { after: After; save: (a: After) => void }) {
  const { data: around } = useAroundQuery();
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
      <Select label="When it is over, the timer" value={after.kind} onChange={(e) => kind(e.target.value)}>
        <option value="zeros">stays at zero</option>
        <option value="message">says something</option>
        <option value="picture">is another picture</option>
        <option value="gone">is gone</option>
      </Select>
      {after.kind === 'message' && (
        <Text label="It says" value={after.text} save={(text) => text.trim() && save({ kind: 'message', text })} />
      )}
      {after.kind === 'picture' && (
        <Select
          label="Which picture"
          value={after.file}
          onChange={(e) => save({ kind: 'picture', file: e.target.value })}
        >
          {pictures.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Select>
      )}
    </>
  );
}
