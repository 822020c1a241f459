import { armsOf, type Step } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { SavedText } from '../ui/saved-text.tsx';

/** What an arm is called by hand. Left empty, its answer says it. */
export function ArmName({ step, arm, label, such }: { step: Step; arm: string; label: string; such: string }) {
  const dispatch = useAct();
  return (
    <SavedText
      label={label}
      value={armsOf(step).find((a) => a.id === arm)?.name ?? ''}
      placeholder={`${label}, such as “${such}”`}
      save={(name) => dispatch(edit([{ type: 'arm.name', arm, name: name.trim() }]))}
    />
  );
}
