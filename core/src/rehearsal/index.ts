export { together, type Brought, type DayRules, type Inside } from './together.ts';
export { rhythmOf } from './rhythm.ts';
export { landings, wayWords, type Landing, type LandingRequest, type Way } from './landings.ts';
export { rehearse, type Behaviour, type Moment, type Rehearsal, type RehearsalRequest } from './rehearse.ts';
