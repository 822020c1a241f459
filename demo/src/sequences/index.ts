import { DAY, type Sequence } from '@ascenso/core';
import { bookIsReady, firstKit } from './bench.ts';
import { course } from './course.ts';
import { birthday, openBench, renewal } from './dates.ts';
import type { DemoIds } from './ids.ts';
import { leftAtCheckout } from './left-at-checkout.ts';
import { benchInMarch, springPapers } from './news.ts';
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

/** The news that go out once, those whose day lies after `from` (epoch ms). */
export const allNews = (ids: DemoIds, from: number): Sequence[] =>
  [springPapers(ids), benchInMarch(ids)].filter((s) =>
    s.triggers.every((t) => t.kind !== 'moment' || Date.parse(t.day) > from + DAY),
  );
