import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { armWords, MAX_ARMS, type Arm, type BranchStep } from '@ascenso/core';
import { ArmName } from './arm-name.tsx';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { Button, IconButton } from '../ui/index.tsx';
import { newId, useNames } from '../ui/names.ts';
import { SavedText } from '../ui/saved-text.tsx';

/** What a branch asks, arm by arm: the first that is true is taken. */
export function BranchPanel({ step }: { step: BranchStep }) {
  const doc = useApp((s) => s.draft.doc);
  const names = useNames(doc);
  const dispatch = useAct();
  const asked = step.arms.filter((a): a is Arm & { condition: NonNullable<Arm['condition']> } => a.condition !== null);
  const addArm = () =>
    dispatch(
      edit([
        {
          type: 'arm.insert',
          step: step.id,
          index: asked.length,
          arm: { id: newId(), condition: { kind: 'tag', tag: '', has: true }, steps: [] },
        },
      ]),
    );
  const move = (arm: string, index: number) => dispatch(edit([{ type: 'arm.move', arm, index }]));
  return (
    <div className="flex flex-col gap-4">
      <SavedText
        label="Name of the branch"
        value={step.name}
        placeholder="Name, such as “Downloaded the guide”"
        save={(name) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'name', value: name }]))}
      />
      {asked.map((arm, i) => (
        <section key={arm.id} aria-label={`Arm ${i + 1}`} className="flex flex-col gap-2">
          <h3 className="flex items-center gap-1 font-sans font-semibold">
            <span className="flex-1">
              {asked.length === 1 ? 'The first arm is for whoever' : `Arm ${i + 1} is for whoever`}
            </span>
            {asked.length > 1 && (
              <>
                <IconButton name={`Ask arm ${i + 1} earlier`} disabled={i === 0} onClick={() => move(arm.id, i - 1)}>
                  <ArrowUp size={14} />
                </IconButton>
                <IconButton
                  name={`Ask arm ${i + 1} later`}
                  disabled={i === asked.length - 1}
                  onClick={() => move(arm.id, i + 1)}
                >
                  <ArrowDown size={14} />
                </IconButton>
                <IconButton
                  name={`Delete arm ${i + 1}: ${armWords(arm, names)}`}
                  onClick={() => dispatch(edit([{ type: 'arm.remove', arm: arm.id }]))}
                >
                  <Trash2 size={14} />
                </IconButton>
              </>
            )}
          </h3>
          <ConditionEditor
            value={arm.condition}
            scope="visit"
            doc={doc}
            sentence={(words) => `For whoever ${words}.`}
            none=""
            save={(condition) =>
              dispatch(
                edit([{ type: 'arm.set', arm: arm.id, condition: condition ?? { kind: 'tag', tag: '', has: true } }]),
              )
            }
          />
          <ArmName step={step} arm={arm.id} label={`Name of arm ${i + 1}`} such="Has the guide" />
        </section>
      ))}
      {step.arms.length < MAX_ARMS && (
        <Button tone="quiet" className="self-start" onClick={addArm}>
          <Plus size={14} aria-hidden="true" />
          Add an arm
        </Button>
      )}
      {step.arms.length > asked.length && (
        <ArmName step={step} arm={step.arms.at(-1)?.id ?? ''} label="Name for everyone else" such="Not yet" />
      )}
      <p className="text-ink-2">The first that is true is taken, from the top. Everyone else goes on “otherwise”.</p>
    </div>
  );
}
