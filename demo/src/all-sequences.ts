import type { Sequence } from '@ascenso/core';
import {
  birthday,
  bookIsReady,
  comeBack,
  course,
  firstKit,
  lookedTwice,
  openBench,
  renewal,
} from './more-sequences.ts';
import { leftAtCheckout, welcome, type DemoIds } from './sequences.ts';

/** Every sequence of the scenario, in the order in which they are published. */
export const allSequences = (ids: DemoIds): Sequence[] => [
  welcome(ids),
  leftAtCheckout(ids),
  course(ids),
  renewal(ids),
  birthday(ids),
  comeBack(ids),
  bookIsReady(),
  lookedTwice(ids),
  firstKit(ids),
  openBench(ids),
];
