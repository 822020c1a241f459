import { isOneOff } from '@ascenso/core';
import { useApp } from '../app/store.ts';
import { PlanView } from '../plan/plan.tsx';
import { OneOffView } from './one-off.tsx';

/** What a sequence opens with: its plan, or, where it goes out once to everybody, the send in the order of the work. */
export function FirstView() {
  const oneOff = useApp((s) => s.draft.doc !== null && isOneOff(s.draft.doc));
  return oneOff ? <OneOffView /> : <PlanView />;
}
