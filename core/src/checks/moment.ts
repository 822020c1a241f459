import { momentRange } from '../sequence/index.ts';
import { minuteWords } from '../time/index.ts';
import { at, type Check, type Finding } from './check.ts';

/** A moment at which everybody is taken in: it has passed for all, or for those in the zones that are ahead. */
export const momentPassed: Check = {
  id: 'moment-passed',
  run: (sequence, { now, self, sequences }) =>
    sequence.triggers.flatMap((t): Finding[] => {
      const range = t.kind === 'moment' ? momentRange(t) : null;
      if (t.kind !== 'moment' || now === undefined || !range || now <= range.first) return [];
      const place = at(null, null, 'trigger');
      if (now <= range.last)
        return [
          {
            check: 'moment-passed',
            level: 'warning',
            place,
            message: `In some zones it is past ${minuteWords(t.minute)} on that day already: readers there get it straight away.`,
            fix: 'Choose a later hour or day, if they should all get it at the same hour.',
          },
        ];
      // What has gone out keeps its moment: a new version is for who is still inside.
      const live = sequences.some((s) => s.id === self && s.status !== 'draft');
      return [
        {
          check: 'moment-passed',
          level: live ? 'warning' : 'error',
          place,
          message: live
            ? 'Its moment has passed: a new version reaches only who is still inside.'
            : 'Its moment has passed: nobody would get it.',
          fix: 'Choose a later day, or let it go out when it is published.',
        },
      ];
    }),
};
