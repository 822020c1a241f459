import { toast } from 'sonner';
import {
  belongings,
  findStep,
  namedCopies,
  plainNames,
  stepWords,
  walk,
  type Command,
  type Place,
  type Sequence,
  type Step,
} from '@ascenso/core';
import type { AppDispatch, RootState } from '../app/store.ts';
import { edit } from '../drafts/draft.ts';
import { newId } from '../ui/names.ts';

type Thunk<T> = (dispatch: AppDispatch, getState: () => RootState) => T;

/** What was copied last, and the names of the emails that it asks about: it outlives going to another sequence, and a reload. */
interface Hand {
  steps: Step[];
  asked: string[];
}
const HAND = 'plan-hand';
const inHand = (): Hand | null => JSON.parse(sessionStorage.getItem(HAND) ?? 'null') as Hand | null;

/** Names of the emails that steps ask about and that are not among them. */
export const askedNames = (steps: readonly Step[], doc: Sequence): string[] =>
  belongings(steps).asked.map((id) => {
    const step = findStep(doc, id)?.step;
    return step ? stepWords(step, plainNames) : 'an email that is gone';
  });

/** Takes steps into the hand, in the order of the plan. */
export const copyToHand =
  (ids: readonly string[]): Thunk<void> =>
  (_dispatch, getState) => {
    const { doc } = getState().draft;
    if (!doc) return;
    const inside = (step: Step) =>
      walk({ steps: [step] })
        .slice(1)
        .map((v) => v.step.id);
    const found = walk(doc)
      .map((v) => v.step)
      .filter((s) => ids.includes(s.id));
    // What stands in an arm of one that is copied comes with it.
    const within = new Set(found.flatMap(inside));
    const steps = found.filter((s) => !within.has(s.id));
    const [first] = steps;
    if (!first) return;
    sessionStorage.setItem(HAND, JSON.stringify({ steps, asked: askedNames(steps, doc) } satisfies Hand));
    toast(
      `Copied ${steps.length === 1 ? `“${stepWords(first, plainNames)}”` : `${steps.length} steps`}. Ctrl V puts ${steps.length === 1 ? 'it' : 'them'} after the selected step.`,
    );
  };

/** What steps still have of the place they come from, in words, to be looked at; `asked` names the emails they ask about. */
export function broughtAlong(
  steps: readonly Step[],
  asked: readonly string[],
  offer: (id: string) => string,
): string[] {
  const { tags, offers } = belongings(steps);
  return [
    ...tags.map((t) => `the tag “${t}”`),
    ...offers.map((o) => `the offer “${offer(o)}”`),
    ...asked.map((name) => `the question about “${name}”`),
  ];
}

/** Puts what was copied last at a place; answers the id of the last copy, after which the next would go, or null where nothing was. */
export const pasteAt =
  (place: Place, offer: (id: string) => string): Thunk<string | null> =>
  (dispatch, getState) => {
    const { doc } = getState().draft;
    const copied = inHand();
    if (!copied || !doc) return null;
    const steps = namedCopies(copied.steps, doc, newId);
    const commands = steps.map((step, i): Command => ({
      type: 'step.insert',
      place: { arm: place.arm, index: place.index + i },
      step,
    }));
    if (!dispatch(edit(commands))) return null;
    const along = broughtAlong(copied.steps, copied.asked, offer);
    if (along.length > 0) toast(`They come with ${along.join(', ')}: look whether it is meant here too.`);
    return steps.at(-1)?.id ?? null;
  };
