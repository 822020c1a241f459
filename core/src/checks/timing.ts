import { DAY, nextInWindow, zoneOf } from '../time/index.ts';
import { stepWords, walk } from '../sequence/index.ts';
import { plainNames } from '../audience/index.ts';
import { at, emailCheck, type Check } from './check.ts';

/** An email that may go out on one weekday only can wait a whole week for it. */
export const longWindow = emailCheck('long-window', 'warning', ({ window, name }) => {
  if (!window || window.days.length === 0) return [];
  // Asked from every hour of a week: which of them waits longest.
  const zone = zoneOf('UTC');
  const longest = Math.max(
    ...Array.from({ length: 168 }, (_, h) => nextInWindow(zone, window, h * 3_600_000) - h * 3_600_000),
  );
  return longest >= 6 * DAY
    ? [
        {
          message: `Whoever gets to “${name}” just after its hours waits for it up to ${Math.ceil(longest / DAY)} days.`,
          fix: 'Allow more weekdays, unless it is meant.',
        },
      ]
    : [];
});

export const stepOff: Check = {
  id: 'step-off',
  run: (sequence) =>
    walk(sequence).flatMap(({ step, parent }) =>
      step.on || (parent && !parent.step.on)
        ? []
        : [
            {
              check: 'step-off',
              level: 'warning' as const,
              place: at(step.id),
              message: `“${stepWords(step, plainNames)}” is switched off: people pass it by.`,
              fix: 'Switch it on, or delete it.',
              repair: {
                label: 'Switch it on',
                commands: [{ type: 'step.set' as const, step: step.id, field: 'on', value: true }],
              },
            },
          ],
    ),
};
