import type { TestMeasure } from '../sequence/index.ts';
import type { SeenArm } from './comparing.ts';

/** What the people did who took one arm: how many there are, how many of them did each thing, what they spent (minor units). */
export interface ArmFigures {
  people: number;
  opened: number;
  clicked: number;
  goal: number;
  /** People who ordered, and the sum of the squares of what each of them spent. */
  ordered: number;
  money: number;
  squares: number;
}

/** What is judged of an arm by a measure: a share of the people, or the money of each. */
export const seenArm = (a: ArmFigures, by: TestMeasure): SeenArm =>
  by === 'money'
    ? { n: a.people, sum: a.money, squares: a.squares, did: a.ordered }
    : { n: a.people, sum: a[by], squares: a[by], did: a[by] };
