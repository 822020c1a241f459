export { BaseSequencer as default } from 'vitest/node';
