export * from './time/index.ts';
export * from './words/index.ts';
export * from './audience/index.ts';
export * from './email/index.ts';
export * from './sequence/index.ts';
export * from './checks/index.ts';
export * from './results/index.ts';
export * from './rehearsal/index.ts';
