import { z } from 'zod';
import { conditionSchema, type Condition } from '../audience/index.ts';
import { emailSchema, type Email } from '../email/index.ts';
import { windowSchema, type SendWindow } from '../time/index.ts';
import { triggerSchema, type Trigger } from './triggers.ts';

const pointsSchema = z
  .int('Points are a whole number.')
  .min(-100_000, 'At least -100,000 points.')
  .max(100_000, '100,000 points at most.');

export const actionSchema = z.discriminatedUnion('type', [
  z.object({ type: z.enum(['add-tag', 'remove-tag']), tag: z.string().max(60) }),
  z.object({ type: z.enum(['join-list', 'leave-list']), list: z.string() }),
  /** Null takes the value away. */
  z.object({
    type: z.literal('set-attribute'),
    key: z.string().max(60),
    value: z.union([z.string().max(2000), z.number(), z.boolean()]).nullable(),
  }),
  z.object({
    type: z.literal('add-points'),
    points: pointsSchema,
  }),
  z.object({ type: z.enum(['start-sequence', 'stop-sequence']), sequence: z.string() }),
  /** An email to the team. `to` is an address, the text may hold merge fields. */
  z.object({ type: z.literal('tell-team'), to: z.string().max(254), text: z.string().max(2000) }),
  z.object({ type: z.literal('call-webhook'), url: z.string().max(2000) }),
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
  /** Points added once the email is decided; 0 for none. */
  thenPoints: number;
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
  /** What comes on top in another unit: "2 days and 1 hour". */
  more?: { amount: number; unit: WaitStep['unit'] } | undefined;
  /** Ends at a moment of the calendar rather than after the period. */
  at: WaitAt | null;
}
export interface Arm {
  id: string;
  /** What it is called; absent where its answer says it. */
  name?: string | undefined;
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
  name?: string | undefined;
  /** Part of the whole, which is the sum of the weights of all arms. */
  weight: number;
  steps: Step[];
}
/** What a test of arms can be decided by: money per person, who reached the goal, clicked or opened an email of the arm. */
export const testMeasures = ['money', 'goal', 'clicked', 'opened'] as const;
export type TestMeasure = (typeof testMeasures)[number];
/** By what rule a split is decided of itself; from then on everybody takes that arm. */
export interface SplitRule {
  measure: TestMeasure;
  /** Percent of the people who take part; the others wait for what is decided. 100 for all. */
  first: number;
  /** How long after the first of them it is decided, for whichever arm is ahead; null: not before it is settled. */
  after: { amount: number; unit: WaitStep['unit'] } | null;
  /** What they get where too few took part by then for one to be ahead: the first arm, as without it, or each by lot. */
  few?: 'first' | 'lot' | undefined;
}
export interface SplitStep extends Common {
  kind: 'split';
  name: string;
  arms: SplitArm[];
  /** Absent where it goes on until somebody decides. */
  rule?: SplitRule | undefined;
}
/** What follows on one outcome of a wait for something. */
export interface OutcomeArm {
  id: string;
  name?: string | undefined;
  steps: Step[];
}
/** Waits until something happens, at most so long; an arm for each outcome. */
export interface UntilStep extends Common {
  kind: 'until';
  name: string;
  condition: Condition;
  amount: number;
  unit: WaitStep['unit'];
  /** What follows when it happened, and when it did not. */
  arms: [OutcomeArm, OutcomeArm];
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
/** Share of an arm; 0 for one that nobody new takes. */
export const weightSchema = z.int('A share is a whole number.').min(0, 'A share is 0 or more.').max(1000);

/** The name of an arm by hand. */
export const armNameSchema = z.string().max(120, '120 characters at most.');
const anArm = { id: z.string().min(1), name: armNameSchema.optional() };

const splitRuleSchema = z
  .object({
    measure: z.enum(testMeasures),
    first: z.int('A share is a whole number.').min(1, 'Somebody has to take part.').max(100, '100% is everybody.'),
    after: z.object(period).nullable(),
    few: z.enum(['first', 'lot']).optional(),
  })
  .refine((r) => r.first === 100 || r.after !== null, {
    path: ['after'],
    error: 'Say after how long it is decided: the others wait for it.',
  });

const common = { id: z.string().min(1).max(60), on: z.boolean(), note: z.string().max(2000) };

export const stepSchema: z.ZodType<Step> = z
  .lazy(() =>
    z.discriminatedUnion('kind', [
      z.object({
        ...common,
        kind: z.literal('email'),
        name: z.string().max(120),
        window: windowSchema.nullable(),
        forWhom: conditionSchema.nullable(),
        thenTag: z.string().max(60),
        thenPoints: pointsSchema,
        email: emailSchema,
      }),
      z.object({
        ...common,
        kind: z.literal('wait'),
        ...period,
        more: z.object(period).optional(),
        at: waitAtSchema.nullable(),
      }),
      z.object({
        ...common,
        kind: z.literal('split'),
        name: z.string().max(120),
        arms: z
          .array(z.object({ ...anArm, weight: weightSchema, steps: z.array(stepSchema).max(200) }))
          .min(2)
          .max(MAX_ARMS),
        rule: splitRuleSchema.optional(),
      }),
      z.object({
        ...common,
        kind: z.literal('until'),
        name: z.string().max(120),
        condition: conditionSchema,
        ...period,
        arms: z.tuple([
          z.object({ ...anArm, steps: z.array(stepSchema).max(200) }),
          z.object({ ...anArm, steps: z.array(stepSchema).max(200) }),
        ]),
      }),
      z.object({
        ...common,
        kind: z.literal('branch'),
        name: z.string().max(120),
        arms: z
          .array(
            z.object({
              ...anArm,
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
  )
  .meta({
    id: 'Step',
    description:
      'A step of a sequence. A branch, a split and a wait for something hold arms, each with steps of its own.',
  });

/** Who may enter again, and who is left out. */
export const entrySchema = z.object({
  again: z.enum(['once', 'after-leaving', 'after-days']),
  /** Days since they entered last, for "after-days". */
  days: z.int().min(1, 'A day or more.').max(3650, '3,650 days at most.'),
  /** Field of the starting event that keeps stories apart, such as a cart's number: one passage for each value. '' for none. */
  key: z.string().max(120),
  /** Share of people held out to measure what the sequence adds, percent. */
  holdout: z.int('A share is a whole number.').min(0).max(50, 'Hold out half at most.'),
});
export type EntryRules = z.infer<typeof entrySchema>;

/** How a sequence gives way when a person would get too much at once. Service mail never does. */
export const capSchema = z.object({
  /** True where the daily cap does not count for it, as for a welcome. */
  exempt: z.boolean(),
  /** 1 goes first, 5 last: who has the places that the cap leaves on a day. */
  priority: z.int().min(1).max(5),
  /** What becomes of an email that yields. */
  yields: z.enum(['later', 'skip']),
});
export type CapRules = z.infer<typeof capSchema>;

/** A sequence as it is drafted and as it runs. Plain data. */
export interface Sequence {
  name: string;
  /** What it is for, in words of one's own; absent in what was saved before it could be said. */
  about?: string | undefined;
  /** Each is enough. */
  triggers: Trigger[];
  /** Who may enter, of those whom a trigger brings; everyone where it is null. */
  filter: Condition | null;
  entry: EntryRules;
  /** The list that it mails under, or null for service mail. */
  list: string | null;
  /** What was hoped for: whoever does it leaves at once. */
  goal: Condition | null;
  /** Whoever this is true of leaves at once too, and the goal does not count as reached. Absent as `about` is. */
  exit?: Condition | null | undefined;
  cap: CapRules;
  steps: Step[];
}

export const MAX_TRIGGERS = 8;
export const sequenceSchema: z.ZodType<Sequence> = z.object({
  name: z.string().trim().min(1, 'Give the sequence a name.').max(120),
  about: z.string().trim().max(300, 'What it is for fits into 300 characters.').optional(),
  triggers: z
    .array(triggerSchema)
    .min(1, 'One trigger has to stay.')
    .max(MAX_TRIGGERS, `${MAX_TRIGGERS} triggers at most.`),
  filter: conditionSchema.nullable(),
  entry: entrySchema,
  list: z.string().nullable(),
  goal: conditionSchema.nullable(),
  exit: conditionSchema.nullable().optional(),
  cap: capSchema,
  steps: z.array(stepSchema).max(200),
});
/** The fields of a sequence beside its steps: what a "set" command can set. */
export const settingNames = ['name', 'about', 'triggers', 'filter', 'entry', 'list', 'goal', 'exit', 'cap'] as const;
export type SettingName = (typeof settingNames)[number];
