import type { Sequence } from '@ascenso/core';
import { bookIsReady, firstKit } from './bench.ts';
import { course } from './course.ts';
import { birthday, openBench, renewal } from './dates.ts';
import type { DemoIds } from './ids.ts';
import { leftAtCheckout } from './left-at-checkout.ts';
import { comeBack, lookedTwice } from './quiet.ts';
import { welcome } from './welcome.ts';

export type { DemoIds };

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
