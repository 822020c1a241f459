import { z } from 'zod';
import { conditionSchema, fieldTestSchema, type Condition } from '../audience/index.ts';
import { emailSchema, type Email } from '../email/index.ts';
import { windowSchema, type SendWindow } from '../time/index.ts';

/** What starts a sequence for a person. */
export const triggerSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('list'), list: z.string() }),
  z.object({ kind: z.literal('event'), event: z.string(), where: z.array(fieldTestSchema).max(10) }),
]);
export type Trigger = z.infer<typeof triggerSchema>;

export const actionSchema = z.discriminatedUnion('type', [
  z.object({ type: z.enum(['add-tag', 'remove-tag']), tag: z.string().max(60) }),
  z.object({ type: z.enum(['join-list', 'leave-list']), list: z.string() }),
  /** Null takes the value away. */
  z.object({
    type: z.literal('set-attribute'),
    key: z.string().max(60),
    value: z.union([z.string().max(2000), z.number(), z.boolean()]).nullable(),
  }),
]);
export type Action = z.infer<typeof actionSchema>;

export interface Common {
  id: string;
  on: boolean;
  note: string;
}
export interface EmailStep extends Common {
  kind: 'email';
  /** Internal name, apart from the subject. */
  name: string;
  window: SendWindow | null;
  /** Who gets it, of those who come by; everyone where it is null. */
  forWhom: Condition | null;
  /** Tag added once the email is decided, or ''. */
  thenTag: string;
  email: Email;
}
/** A moment of the calendar that a wait ends at, in the reader's zone. `minute` counts from the day's beginning. */
export type WaitAt =
  /** The next such weekday (0 is Sunday). */
  | { kind: 'weekday'; days: number[]; minute: number }
  /** Every year; 29 February falls on the 28th in common years. */
  | { kind: 'day-of-year'; month: number; day: number; minute: number }
  /**
   * Days before (negative) or after a date of the person (`subscriber.…`) or of the event that started it (`event.…`);
   * `minute` null is the date's own time. `passed` says what follows when it has gone by, or is not known.
   */
  | { kind: 'date'; field: string; days: number; minute: number | null; passed: 'go-on' | 'leave' };
export interface WaitStep extends Common {
  kind: 'wait';
  amount: number;
  unit: 'minutes' | 'hours' | 'days' | 'weeks';
  /** Ends at a moment of the calendar rather than after the period. */
  at: WaitAt | null;
}
export interface Arm {
  id: string;
  /** Absent on the arm taken when no other is true. */
  condition: Condition | null;
  steps: Step[];
}
export interface BranchStep extends Common {
  kind: 'branch';
  name: string;
  /** First true arm wins; the last has no condition: "otherwise". */
  arms: Arm[];
}
export interface SplitArm {
  id: string;
  /** Part of the whole, which is the sum of the weights of all arms. */
  weight: number;
  steps: Step[];
}
export interface SplitStep extends Common {
  kind: 'split';
  name: string;
  arms: SplitArm[];
}
/** Waits until something happens, at most so long; an arm for each outcome. */
export interface UntilStep extends Common {
  kind: 'until';
  name: string;
  condition: Condition;
  amount: number;
  unit: WaitStep['unit'];
  /** What follows when it happened, and when it did not. */
  arms: [{ id: string; steps: Step[] }, { id: string; steps: Step[] }];
}
export interface ActionStep extends Common {
  kind: 'action';
  action: Action;
}
export interface LeaveStep extends Common {
  kind: 'leave';
}
export type Step = EmailStep | WaitStep | BranchStep | SplitStep | UntilStep | ActionStep | LeaveStep;
export type StepKind = Step['kind'];

/** Arms of one branch, "otherwise" included, or of one split. */
export const MAX_ARMS = 12;
const period = {
  amount: z.int().min(0, 'A wait is 0 or more.').max(999, 'A wait is 999 at most: use a larger unit.'),
  unit: z.enum(['minutes', 'hours', 'days', 'weeks']),
};
const minute = z.int().min(0).max(1439, 'A time of day lies between 0:00 and 23:59.');
const waitAtSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('weekday'),
    days: z.array(z.int().min(0).max(6)).min(1, 'Choose a weekday.').max(7),
    minute,
  }),
  z.object({ kind: z.literal('day-of-year'), month: z.int().min(1).max(12), day: z.int().min(1).max(31), minute }),
  z.object({
    kind: z.literal('date'),
    field: z.string().max(120),
    days: z.int().min(-3650).max(3650),
    minute: minute.nullable(),
    passed: z.enum(['go-on', 'leave']),
  }),
]);
export const weightSchema = z.int('A share is a whole number.').min(1, 'A share is 1 or more.').max(1000);

const common = { id: z.string().min(1).max(60), on: z.boolean(), note: z.string().max(2000) };

export const stepSchema: z.ZodType<Step> = z.lazy(() =>
  z.discriminatedUnion('kind', [
    z.object({
      ...common,
      kind: z.literal('email'),
      name: z.string().max(120),
      window: windowSchema.nullable(),
      forWhom: conditionSchema.nullable(),
      thenTag: z.string().max(60),
      email: emailSchema,
    }),
    z.object({
      ...common,
      kind: z.literal('wait'),
      ...period,
      at: waitAtSchema.nullable(),
    }),
    z.object({
      ...common,
      kind: z.literal('split'),
      name: z.string().max(120),
      arms: z
        .array(z.object({ id: z.string().min(1), weight: weightSchema, steps: z.array(stepSchema).max(200) }))
        .min(2)
        .max(MAX_ARMS),
    }),
    z.object({
      ...common,
      kind: z.literal('until'),
      name: z.string().max(120),
      condition: conditionSchema,
      ...period,
      arms: z.tuple([
        z.object({ id: z.string().min(1), steps: z.array(stepSchema).max(200) }),
        z.object({ id: z.string().min(1), steps: z.array(stepSchema).max(200) }),
      ]),
    }),
    z.object({
      ...common,
      kind: z.literal('branch'),
      name: z.string().max(120),
      arms: z
        .array(
          z.object({
            id: z.string().min(1),
            condition: conditionSchema.nullable(),
            steps: z.array(stepSchema).max(200),
          }),
        )
        .min(2)
        .max(MAX_ARMS),
    }),
    z.object({ ...common, kind: z.literal('action'), action: actionSchema }),
    z.object({ ...common, kind: z.literal('leave') }),
  ]),
);

/** A sequence as it is drafted and as it runs. Plain data. */
export interface Sequence {
  name: string;
  trigger: Trigger;
  /** Who may enter, of those whom the trigger brings; everyone where it is null. */
  filter: Condition | null;
  /** Once ever, or again after leaving. */
  reentry: 'once' | 'after-leaving';
  /** The list that it mails under, or null for service mail. */
  list: string | null;
  /** What was hoped for: whoever does it leaves at once. */
  goal: Condition | null;
  steps: Step[];
}

export const sequenceSchema: z.ZodType<Sequence> = z.object({
  name: z.string().trim().min(1, 'Give the sequence a name.').max(120),
  trigger: triggerSchema,
  filter: conditionSchema.nullable(),
  reentry: z.enum(['once', 'after-leaving']),
  list: z.string().nullable(),
  goal: conditionSchema.nullable(),
  steps: z.array(stepSchema).max(200),
});
