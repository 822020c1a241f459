export * from './content.ts';
export * from './engine.ts';
