export {
  capSchema,
  entrySchema,
  MAX_ARMS,
  MAX_TRIGGERS,
  actionSchema,
  sequenceSchema,
  settingNames,
  stepSchema,
  type Action,
  type ActionStep,
  type Arm,
  type BranchStep,
  type CapRules,
  type EntryRules,
  type SettingName,
  testMeasures,
  type SplitRule,
  type SplitStep,
  type TestMeasure,
  type UntilStep,
  type EmailStep,
  type LeaveStep,
  type Sequence,
  type Step,
  type StepKind,
  type WaitAt,
  type WaitStep,
} from './schema.ts';
export {
  armsOf,
  copySequence,
  copyStep,
  copySteps,
  emailSteps,
  findStep,
  indexSteps,
  nextStep,
  ruledSplits,
  walk,
  withInner,
  type Place,
  type RuledSplit,
  type Visited,
} from './tree.ts';
export {
  beginning,
  dateMoments,
  isOneOff,
  isSwept,
  momentFor,
  goesOnAt,
  momentRange,
  testRunsFrom,
  quietMoment,
  startedBy,
  startingEvents,
  triggerSchema,
  type Happening,
  type SweptTrigger,
  type Trigger,
  type TriggerOf,
} from './triggers.ts';
export { advance, earlyEnd, earlyEnds, type Advanced, type EarlyEnd } from './advance.ts';
export { emailsOfEvent } from './taking.ts';
export { localDay, yieldsTo, type Yields } from './day-order.ts';
export { LATE, mailBar } from './do-email.ts';
export {
  enter,
  nextEmailAt,
  nextEmailStep,
  personWith,
  prepare,
  type Effect,
  type Ending,
  type Runnable,
  type Visit,
} from './visit.ts';
export { askedBy, conditionsOf, everyCondition, needs, offersOf, type Needs } from './needs.ts';
export { traceCodes, traceSentence, type TraceCode, type TraceEntry, type TraceNames } from './trace.ts';
export { dayWords, reaches, type Reach } from './timing.ts';
export { daysBetween, waitEnd, waitLength, waitWords } from './waiting.ts';
export {
  applyCommands,
  CommandError,
  commandSchema,
  opposed,
  rebase,
  stacksOf,
  withOthers,
  withOwn,
  type Command,
  type Edit,
  type Rebased,
  type Saved,
  type SetAside,
  type Stacks,
  type Undoable,
} from './commands/index.ts';
export { adoptEvent, listsIn, mappingFor, mapRepeat, showsItems, type EventKind } from './adopting.ts';
export { both, editWords, innerWords, type EditWords } from './edit-words.ts';
export { blankEmail, blankOneOff, blankSequence, blankStep, plainCap, plainEntry } from './blank.ts';
export {
  actionWords,
  answerWords,
  armLabel,
  MEASURE_WORDS,
  ruleWords,
  armWords,
  branchWords,
  capWords,
  entryWords,
  stepWords,
  triggersWords,
  triggerWords,
  whomWords,
  windowWords,
} from './describe.ts';
export { traceNames } from './trace-names.ts';
export { difference } from './difference.ts';
export { planText } from './plan-text.ts';
export { changes, type Change } from './changes.ts';
export { fromPattern, patterns, type Ground, type Pattern } from './patterns/index.ts';
export { carryOver } from './carry-over.ts';
export { resumedByShift } from './resuming.ts';
export { belongings, namedCopies, type Belongings } from './copying.ts';
export { keepSteps } from './keeping.ts';
