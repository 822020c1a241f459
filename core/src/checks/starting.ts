import { walk } from '../sequence/index.ts';
import type { Check, Finding } from './check.ts';

/** Nobody can enter a draft: a step that starts one starts nothing, for everybody who comes by. */
export const startsWhatIsNotLive: Check = {
  id: 'starts-what-is-not-live',
  run: (sequence, { self, sequences }) =>
    walk(sequence).flatMap(({ step }): Finding[] => {
      if (!step.on || step.kind !== 'action' || step.action.type !== 'start-sequence') return [];
      const { sequence: id } = step.action;
      const started = sequences.find((s) => s.id === id);
      if (!started || id === self || started.status === 'live' || started.status === 'paused') return [];
      return [
        {
          check: 'starts-what-is-not-live',
          level: 'error',
          place: { step: step.id, block: null, part: null },
          message: `“${started.name}” is not live: nobody can be started in it.`,
          fix: `Publish “${started.name}” first, or take this step out.`,
        },
      ];
    }),
};

/** Whoever a step puts into a sequence brings no event: its emails that speak of one would have nothing to say. */
export const startsWithoutEvent: Check = {
  id: 'starts-without-event',
  run: (sequence, { self, sequences }) =>
    walk(sequence).flatMap(({ step }): Finding[] => {
      if (!step.on || step.kind !== 'action' || step.action.type !== 'start-sequence') return [];
      const { sequence: id } = step.action;
      const started = sequences.find((s) => s.id === id);
      const [first] = started?.ofEvent ?? [];
      if (!started || first === undefined || id === self) return [];
      return [
        {
          check: 'starts-without-event',
          level: 'error',
          place: { step: step.id, block: null, part: null },
          message: `“${first}” in “${started.name}” speaks of what starts it, and whoever this step puts in has done nothing of the kind.`,
          fix: `Say in “${started.name}” for whom “${first}” is, give its fields fallbacks, or take this step out.`,
        },
      ];
    }),
};
