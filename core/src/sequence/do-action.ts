import type { ActionStep } from './schema.ts';
import { cause, tell, type Walk } from './visit.ts';

/** What an action asks the world to do, and how it is told. */
export function doAction(w: Walk, step: ActionStep): void {
  const { action } = step;
  switch (action.type) {
    case 'add-tag':
    case 'remove-tag': {
      const add = action.type === 'add-tag';
      cause(w, { kind: 'tag', step: step.id, tag: action.tag, add });
      return tell(w, step.id, add ? 'tag-added' : 'tag-removed', { tag: action.tag });
    }
    case 'join-list':
    case 'leave-list': {
      const joins = action.type === 'join-list';
      cause(w, {
        kind: 'list',
        step: step.id,
        list: action.list,
        state: joins ? 'confirmed' : 'left',
        at: w.now,
      });
      return tell(w, step.id, joins ? 'list-joined' : 'list-left', { list: action.list });
    }
    case 'set-attribute':
      cause(w, { kind: 'set', step: step.id, key: action.key, value: action.value });
      return tell(w, step.id, 'attribute-set', { key: action.key, value: action.value ?? '' });
    case 'add-points':
      cause(w, { kind: 'points', step: step.id, points: action.points });
      return tell(w, step.id, 'points-added', { points: action.points });
    case 'start-sequence':
    case 'stop-sequence': {
      const starts = action.type === 'start-sequence';
      cause(w, { kind: starts ? 'start' : 'stop', step: step.id, sequence: action.sequence, at: w.now });
      return tell(w, step.id, starts ? 'start-asked' : 'stop-asked', { sequence: action.sequence });
    }
    case 'tell-team':
      cause(w, { kind: 'tell', step: step.id, to: action.to, text: action.text });
      return tell(w, step.id, 'tell-asked', { to: action.to });
    case 'call-webhook':
      cause(w, { kind: 'call', step: step.id, url: action.url });
      return tell(w, step.id, 'call-asked', { url: action.url });
  }
}
