import type { StepNumbers } from '@ascenso/contracts';

/** What a step counts that nobody has come to. */
export const noNumbers: StepNumbers = {
  here: 0,
  held: 0,
  awaits: 0,
  queued: 0,
  sent: 0,
  delivered: 0,
  bounced: 0,
  opened: 0,
  clicked: 0,
  left: 0,
  complained: 0,
  failed: 0,
  orders: 0,
  money: {},
  kept: {},
  ended: {},
};
