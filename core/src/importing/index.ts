export {
  fileColumnSchema,
  dayOrders,
  importPlanSchema,
  type FileColumn,
  type ColumnType,
  type ImportPlan,
  type ValueKind,
} from './plan.ts';
export {
  DAY_ORDER,
  harmless,
  joinParts,
  readDate,
  readNumber,
  valueReader,
  WRITTEN,
  type Reading,
  type Writing,
} from './values.ts';
export { rowReader, type ImportedRow, type Knowing } from './row.ts';
export { guessColumns, NO, YES, type Guess, type GuessedColumn } from './guess.ts';
export { readSuppressions, type Ended, type SuppressionLine } from './suppressions.ts';
