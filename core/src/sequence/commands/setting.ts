import { sequenceSchema } from '../schema.ts';
import { setField } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** One setting of the sequence itself. */
export const setting: CommandKind<'set'> = {
  change: (doc, c) => ({ ...c, value: setField(doc, c.field, c.value, sequenceSchema) }),
  scope: ({ field, value }) => ({ writes: [[`set/${field}`, value]] }),
};
