export * from './content.ts';
export * from './engine.ts';
export * from './offers.ts';
