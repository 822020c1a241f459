import { armInsert } from './arm-insert.ts';
import { armMove } from './arm-move.ts';
import { armName } from './arm-name.ts';
import { armRemove } from './arm-remove.ts';
import { armSet } from './arm-set.ts';
import { armWeigh } from './arm-weigh.ts';
import { blockInsert } from './block-insert.ts';
import { blockMove } from './block-move.ts';
import { blockRemove } from './block-remove.ts';
import { blockSet } from './block-set.ts';
import { emailSet } from './email-set.ts';
import type { CommandKind } from './kind.ts';
import type { Command, CommandType } from './schemas.ts';
import { setting } from './setting.ts';
import { stepInsert } from './step-insert.ts';
import { stepMove } from './step-move.ts';
import { stepRemove } from './step-remove.ts';
import { stepSet } from './step-set.ts';

/** Every kind of command, by the id that the log keeps. */
const kinds: { [T in CommandType]: CommandKind<T> } = {
  set: setting,
  'step.insert': stepInsert,
  'step.remove': stepRemove,
  'step.move': stepMove,
  'step.set': stepSet,
  'arm.insert': armInsert,
  'arm.remove': armRemove,
  'arm.move': armMove,
  'arm.weigh': armWeigh,
  'arm.name': armName,
  'arm.set': armSet,
  'email.set': emailSet,
  'block.insert': blockInsert,
  'block.remove': blockRemove,
  'block.move': blockMove,
  'block.set': blockSet,
};

/** The kind of a command. Its own type is lost on the way, since each kind takes commands of its own only. */
export const kindOf = (command: Command): CommandKind<CommandType> =>
  kinds[command.type] as unknown as CommandKind<CommandType>;
