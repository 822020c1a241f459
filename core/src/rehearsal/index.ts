export { rehearse, type Behaviour, type Moment, type Rehearsal, type RehearsalRequest } from './rehearse.ts';
