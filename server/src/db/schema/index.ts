export * from './content.ts';
export * from './engine.ts';
export * from './offers.ts';
export * from './people.ts';
export * from './sequences.ts';
export * from './workspace.ts';
