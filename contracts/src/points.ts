import { z } from 'zod';

const points = z.int('Whole points.').min(-1000, '-1,000 at least.').max(1000, '1,000 at most.');

/** What people earn by what they do: 0 for nothing. */
export const pointRules = z.strictObject({
  /** For the first opening of an email, and on top of it for the first click in it. */
  opened: points,
  clicked: points,
  /** For each event of a kind, by its name; a file counts once, however often it is downloaded. */
  events: z
    .record(z.string().min(1).max(120), points)
    .refine((of) => Object.keys(of).length <= 100, '100 kinds of events at most.'),
});
export type PointRules = z.infer<typeof pointRules>;
