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
