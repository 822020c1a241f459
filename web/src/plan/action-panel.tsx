import type { Action, ActionStep } from '@ascenso/core';
import { useAroundQuery } from '../app/api.ts';
import { edit } from '../app/draft.ts';
import { useAct } from '../app/store.ts';
import { inputClass } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';

const inline = `${inputClass} inline-block`;
const blank: Record<Action['type'], Action> = {
  'add-tag': { type: 'add-tag', tag: '' },
  'remove-tag': { type: 'remove-tag', tag: '' },
  'join-list': { type: 'join-list', list: '' },
  'leave-list': { type: 'leave-list', list: '' },
  'set-attribute': { type: 'set-attribute', key: '', value: '' },
};

/** A value as its attribute's type takes it; nothing typed takes the value away. */
function valueOf(type: string | undefined, text: string): string | number | boolean | null {
  if (text === '') return null;
  if (type === 'number' && !Number.isNaN(Number(text))) return Number(text);
  return type === 'yes-no' ? text === 'yes' : text;
}

/** What an action does, as one sentence. */
export function ActionPanel({ step }: { step: ActionStep }) {
  const { data: around } = useAroundQuery();
  const dispatch = useAct();
  const { action } = step;
  const set = (value: Action) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'action', value }]));
  const choose = (type: Action['type']) =>
    set('tag' in action && 'tag' in blank[type] ? { ...blank[type], tag: action.tag } : blank[type]);
  if (!around) return null;
  return (
    <p className="text-[15px] leading-9">
      <select aria-label="What it does" value={action.type} onChange={(e) => choose(e.target.value as Action['type'])} className={`${inline} !w-44`}>
        <option value="add-tag">Adds the tag</option><option value="remove-tag">Removes the tag</option><option value="join-list">Puts them on</option><option value="leave-list">Takes them off</option><option value="set-attribute">Sets the attribute</option>
      </select>{' '}
      {'tag' in action && <span className="inline-block w-36 align-middle"><SavedText label="Tag" value={action.tag} placeholder="kit-owner" suggestions={around.tags} save={(tag) => set({ ...action, tag: tag.trim() })} /></span>}
      {'list' in action && (
        <select aria-label="Which list" value={action.list} onChange={(e) => set({ ...action, list: e.target.value })} className={`${inline} !w-44`}>
          <option value="">Choose a list …</option>{around.lists.map((l) => <option key={l.id} value={l.id}>{l.name}</option>)}
        </select>
      )}
      {action.type === 'set-attribute' && (
        <>
          <select aria-label="Which attribute" value={action.key} onChange={(e) => set({ ...action, key: e.target.value })} className={`${inline} !w-44`}>
            <option value="">Choose an attribute …</option>{around.attributes.map((a) => <option key={a.key} value={a.key}>{a.label}</option>)}
          </select>{' '}
          to <span className="inline-block w-36 align-middle"><SavedText label="Value" value={action.value === null ? '' : String(action.value)} placeholder="nothing" save={(text) => set({ ...action, value: valueOf(around.attributes.find((a) => a.key === action.key)?.type, text.trim()) })} /></span>
        </>
      )}
    </p>
  ); // prettier-ignore
}
