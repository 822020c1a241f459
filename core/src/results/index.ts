export { rate, rateWords, type StepCounts } from './rates.ts';
export { meanDifference, newcombe, wilson, type Range, type Sample } from './ranges.ts';
export { added, type Added, type Group } from './added.ts';
export { climb, type Between, type Climb, type Gathered } from './climb.ts';
export { seenArm, type ArmFigures } from './measures.ts';
export { ALPHA, judge, LEAST_AHEAD, verdictOf, type Judged, type JudgedArm, type SeenArm } from './comparing.ts';
