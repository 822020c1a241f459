import { describe, emailSteps, type Atom, type BranchStep, type Since } from '@ascenso/core';
import { useAroundQuery } from '../app/api.ts';
import { edit } from '../app/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Select } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { FieldTests } from './field-tests.tsx';
import { SavedText } from '../ui/saved-text.tsx';

const SINCE = { entry: 'since they joined the sequence', ever: 'ever' };

/** What a branch asks. */
export function BranchPanel({ step }: { step: BranchStep }) {
  const doc = useApp((s) => s.draft.doc);
  const { data: around } = useAroundQuery();
  const names = useNames(doc);
  const dispatch = useAct();
  const arm = step.arms[0];
  if (!doc || !around || !arm?.condition) return null;
  const set = (condition: Atom) => dispatch(edit([{ type: 'arm.set', arm: arm.id, condition }]));
  const atom: Atom =
    arm.condition.kind === 'event' || arm.condition.kind === 'email' || arm.condition.kind === 'tag'
      ? arm.condition
      : { kind: 'tag', tag: '', has: true };
  const what = atom.kind === 'event' ? (atom.done ? 'did' : 'did-not') : atom.kind === 'email' ? atom.what : 'tag';
  const change = (to: string) => {
    if (to === 'did' || to === 'did-not')
      set({
        kind: 'event',
        event: atom.kind === 'event' ? atom.event : '',
        done: to === 'did',
        since: { kind: 'entry' },
        where: [],
      });
    else if (to === 'opened' || to === 'clicked')
      set({ kind: 'email', step: emailSteps(doc)[0]?.id ?? '', what: to, did: true });
    else set({ kind: 'tag', tag: '', has: true });
  };
  const sinceValue = (s: Since) => (s.kind === 'step' ? s.step : s.kind);
  return (
    <div className="flex flex-col gap-3">
      <SavedText label="Name of the branch" value={step.name} placeholder="Name, such as “Downloaded the guide”" save={(name) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'name', value: name }]))} />
      <Select label="“Yes” is for people who" value={what} onChange={(e) => change(e.target.value)}>
        <option value="did">did an event</option>
        <option value="did-not">did not do an event</option>
        <option value="opened">opened an email of this sequence</option>
        <option value="clicked">clicked in an email of this sequence</option>
        <option value="tag">have a tag</option>
      </Select>
      {atom.kind === 'event' && (
        <>
          <Select label="Which event" value={atom.event} onChange={(e) => set({ ...atom, event: e.target.value, where: [] })}>
            <option value="">Choose an event …</option>
            {around.kinds.map((k) => <option key={k.name} value={k.name}>{k.label} ({k.name})</option>)}
          </Select>
          <Select label="Since when" value={sinceValue(atom.since)} onChange={(e) => set({ ...atom, since: e.target.value === 'entry' || e.target.value === 'ever' ? { kind: e.target.value } : { kind: 'step', step: e.target.value } })}>
            {Object.entries(SINCE).map(([k, v]) => <option key={k} value={k}>{v}</option>)}
            {emailSteps(doc).map((s) => <option key={s.id} value={s.id}>since “{s.name}”</option>)}
          </Select>
          <FieldTests tests={atom.where} fields={around.kinds.find((k) => k.name === atom.event)?.fields ?? []} save={(where) => set({ ...atom, where })} />
        </>
      )}
      {atom.kind === 'email' && (
        <Select label="Which email" value={atom.step} onChange={(e) => set({ ...atom, step: e.target.value })}>
          {emailSteps(doc).map((s) => <option key={s.id} value={s.id}>{s.name}</option>)}
        </Select>
      )}
      {atom.kind === 'tag' && <SavedText label="Tag" value={atom.tag} placeholder="kit-owner" save={(tag) => set({ ...atom, tag: tag.trim() })} />}
      <p className="rounded-control bg-plum-tint px-3 py-2 text-plum">Yes: {describe(atom, names)}. Everyone else goes on “otherwise”.</p>
    </div>
  ); // prettier-ignore
}
