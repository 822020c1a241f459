import { answerWords, armsOf, type Step } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { useNames } from '../ui/names.ts';
import { SavedText } from '../ui/saved-text.tsx';

/** What an arm is called by hand. Left empty, its answer says it. */
export function ArmName({ step, arm, label }: { step: Step; arm: string; label: string }) {
  const names = useNames(useApp((s) => s.draft.doc));
  const dispatch = useAct();
  return (
    <SavedText
      label={label}
      value={armsOf(step).find((a) => a.id === arm)?.name ?? ''}
      placeholder={`Called “${answerWords(step, arm, names)}”`}
      save={(name) => dispatch(edit([{ type: 'arm.name', arm, name: name.trim() }]))}
    />
  );
}
