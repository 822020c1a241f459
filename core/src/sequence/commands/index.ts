export { applyCommand, applyCommands, completed, type Applied } from './apply.ts';
export { CommandError, structuredCloneJson } from './finding.ts';
export { stacksOf, withOthers, withOwn, type Stacks, type Undoable } from './log.ts';
export { opposed } from './opposed.ts';
export { collide, rebase, type Edit, type Rebased, type Saved, type SetAside } from './rebase.ts';
export { commandSchema, type Command } from './schemas.ts';
