export * from './consent.ts';
export * from './content.ts';
export * from './engine.ts';
export * from './imports.ts';
export * from './offers.ts';
export * from './people.ts';
export * from './sequences.ts';
export * from './workspace.ts';
