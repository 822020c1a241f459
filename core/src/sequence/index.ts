export {
  MAX_ARMS,
  actionSchema,
  sequenceSchema,
  stepSchema,
  triggerSchema,
  type Action,
  type ActionStep,
  type Arm,
  type BranchStep,
  type SplitStep,
  type UntilStep,
  type EmailStep,
  type LeaveStep,
  type Sequence,
  type Step,
  type StepKind,
  type Trigger,
  type WaitAt,
  type WaitStep,
} from './schema.ts';
export {
  armsOf,
  copyStep,
  emailSteps,
  findStep,
  indexSteps,
  nextStep,
  walk,
  withInner,
  type Place,
  type Visited,
} from './tree.ts';
export {
  advance,
  enter,
  goalReached,
  mailBar,
  prepare,
  type Advanced,
  type Effect,
  type Runnable,
  type Visit,
} from './advance.ts';
export { conditionsOf, needs, type Needs } from './needs.ts';
export { traceCodes, traceSentence, type TraceCode, type TraceEntry, type TraceNames } from './trace.ts';
export { dayWords, reaches, type Reach } from './timing.ts';
export {
  applyCommand,
  applyCommands,
  CommandError,
  commandSchema,
  conflicts,
  undoStacks,
  type Command,
  type LogEntry,
} from './commands.ts';
export { blankEmail, blankSequence, blankStep } from './blank.ts';
export { armLabel, armWords, branchWords, stepWords, triggerWords, windowWords } from './describe.ts';
export { traceNames } from './trace-names.ts';
export { difference } from './difference.ts';
export { changes, type Change } from './changes.ts';
export { carryOver } from './carry-over.ts';
