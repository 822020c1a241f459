import { GitFork, Hourglass, LogOut, Mail, Split, Tag, TimerReset } from 'lucide-react';
import type { StepKind } from '@ascenso/core';

/** Kinds of steps in the order in which they are offered, with the key that inserts one. */
export const stepKinds: { kind: StepKind; label: string; keys: string; icon: typeof Mail }[] = [
  { kind: 'email', label: 'Email', keys: 'E', icon: Mail },
  { kind: 'wait', label: 'Wait', keys: 'W', icon: Hourglass },
  { kind: 'branch', label: 'Branch', keys: 'B', icon: GitFork },
  { kind: 'split', label: 'Split by share', keys: 'S', icon: Split },
  { kind: 'until', label: 'Wait until something happens', keys: 'U', icon: TimerReset },
  { kind: 'action', label: 'Action: tag, list, points, another sequence …', keys: 'A', icon: Tag },
  { kind: 'leave', label: 'Leave', keys: 'L', icon: LogOut },
];
