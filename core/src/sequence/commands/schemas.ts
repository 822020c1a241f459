import { z } from 'zod';
import { conditionSchema } from '../../audience/index.ts';
import { blockSchema, emailFields } from '../../email/index.ts';
import { armNameSchema, settingNames, stepSchema, weightSchema } from '../schema.ts';

const newArm = { id: z.string().min(1), name: armNameSchema.optional(), steps: z.array(stepSchema).max(200) };
const newArmSchema = z.union([
  z.strictObject({ ...newArm, condition: conditionSchema }),
  z.strictObject({ ...newArm, weight: weightSchema }),
]);
/** A place among the blocks of an email: in its own list, or where `into` names it, in that of a section or a column. */
const intoSchema = { index: z.int().min(0), into: z.string().nullish() };
const placeSchema = z.object({ arm: z.string().nullable(), index: z.int().min(0) });

const schema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('set'),
    field: z.enum(settingNames),
    value: z.unknown(),
  }),
  z.object({ type: z.literal('step.insert'), place: placeSchema, step: stepSchema }),
  z.object({ type: z.literal('step.remove'), step: z.string() }),
  z.object({ type: z.literal('step.move'), step: z.string(), place: placeSchema }),
  z.object({ type: z.literal('step.set'), step: z.string(), field: z.string(), value: z.unknown() }),
  z.object({ type: z.literal('arm.insert'), step: z.string(), index: z.int().min(0), arm: newArmSchema }),
  z.object({ type: z.literal('arm.remove'), arm: z.string() }),
  z.object({ type: z.literal('arm.move'), arm: z.string(), index: z.int().min(0) }),
  z.object({ type: z.literal('arm.weigh'), arm: z.string(), weight: weightSchema }),
  z.object({ type: z.literal('arm.name'), arm: z.string(), name: armNameSchema }),
  z.object({ type: z.literal('arm.set'), arm: z.string(), condition: z.unknown() }),
  z.object({
    type: z.literal('email.set'),
    step: z.string(),
    field: z.enum(emailFields),
    /** Null takes an optional one away. */
    value: z.unknown(),
  }),
  z.object({ type: z.literal('block.insert'), step: z.string(), ...intoSchema, block: blockSchema }),
  z.object({ type: z.literal('block.remove'), step: z.string(), block: z.string() }),
  z.object({ type: z.literal('block.move'), step: z.string(), block: z.string(), ...intoSchema }),
  z.object({
    type: z.literal('block.set'),
    step: z.string(),
    block: z.string(),
    field: z.string(),
    value: z.unknown(),
  }),
]);
/** An edit of a draft: small, invertible, plain data. Undo, history and conflicts all come from these. */
export type Command = z.infer<typeof schema>;
export const commandSchema: z.ZodType<Command> = schema;
export type CommandType = Command['type'];
export type CommandOf<T extends CommandType> = Extract<Command, { type: T }>;
