import { BaseSequencer } from 'vitest/node';
export default class LongestFirst extends BaseSequencer {}
