export { applyCommands, completed } from './apply.ts';
export { CommandError, structuredCloneJson } from './finding.ts';
export { stacksOf, withOthers, withOwn, type Stacks, type Undoable } from './log.ts';
export { opposed } from './opposed.ts';
export { rebase, type Edit, type Rebased, type Saved, type SetAside } from './rebase.ts';
export { commandSchema, type Command } from './schemas.ts';
