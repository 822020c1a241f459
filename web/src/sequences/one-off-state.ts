import { beginning, isOneOff, type Trigger } from '@ascenso/core';
import type { SequenceStatus } from '@ascenso/contracts';

/** How far a one-off send is, as it is live. */
export type OneOffState = 'draft' | 'scheduled' | 'going' | 'sent' | 'held' | 'put-away';

export interface OneOffSeen {
  status: SequenceStatus;
  /** What starts the live version. */
  liveTriggers: readonly Trigger[];
  letInAt: number | null;
  inside: number;
}

/** How far a one-off send is at `now` (epoch ms): it is going out until everybody is through. */
export function oneOffState({ status, liveTriggers, letInAt, inside }: OneOffSeen, now: number): OneOffState {
  if (status === 'draft') return 'draft';
  if (status === 'archived') return 'put-away';
  if (status === 'paused') return 'held';
  if (letInAt !== null) return inside > 0 ? 'going' : 'sent';
  return isOneOff({ triggers: liveTriggers }) && now < beginning({ triggers: liveTriggers }, 0).first
    ? 'scheduled'
    : 'going';
}

export const ONE_OFF_WORDS: Record<OneOffState, { words: string; tone: 'draft' | 'data' | 'live' | 'fix' }> = {
  draft: { words: 'Draft', tone: 'draft' },
  scheduled: { words: 'Waits for its day', tone: 'data' },
  going: { words: 'Going out', tone: 'live' },
  sent: { words: 'Sent', tone: 'live' },
  held: { words: 'Held', tone: 'fix' },
  'put-away': { words: 'Archived', tone: 'draft' },
};
