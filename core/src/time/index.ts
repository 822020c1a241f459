export {
  fromWall,
  isZone,
  offsetAt,
  toWall,
  zoneDataVersion,
  zoneNames,
  zoneOf,
  type Zone,
  segmentAt,
} from './zones.ts';
export {
  addDays,
  addPeriod,
  DAY,
  dayNumber,
  HOUR,
  MINUTE,
  roughLength,
  wallOf,
  type Unit,
  type Wall,
} from './calendar.ts';
export { clockChange, type ClockChange } from './clock-change.ts';
export { dayOfCalendarWords, daysFromDate, nextDayOfYear, nextWeekday } from './dates.ts';
export { nextInWindow, windowSchema, type SendWindow } from './windows.ts';
export { dateWords, daysWords, minuteWords, momentWords, MONTHS, periodWords, placeWords, WEEKDAYS } from './words.ts';
