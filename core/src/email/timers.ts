import { readPath } from '../audience/index.ts';
import { instantOfWall } from '../offer/index.ts';
import { zoneOf } from '../time/index.ts';
import { instantOf } from '../words/index.ts';
import type { MergeContext } from './fields.ts';
import type { TimerPlan } from './masks.ts';

/** The moment that a countdown counts to for one reader (epoch ms), or null where there is none. */
export function targetOfTimer({ to }: Pick<TimerPlan, 'to'>, context: MergeContext): number | null {
  if (to.kind === 'date') return instantOfWall(to.wall, zoneOf(to.zone));
  const value = to.kind === 'offer' ? context.offer?.deadline : readPath(context, to.path);
  return instantOf(value, zoneOf(context.locale?.zone ?? 'UTC'));
}
